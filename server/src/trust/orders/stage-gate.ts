import { byNumber, givesCertificate, listed, partnersOf, targetOf, whatItWaitsFor } from '@loyal-hinge/core';
import type { Meeting, Stage, TrustChange } from '@loyal-hinge/core';
import type { Batch } from '../../orders/batches.js';
import type { Doubt } from './renewal-proof.js';
import type { LineRow } from '../../orders/store.js';
import { trustLinesOf } from './trust-lines.js';
import type { TrustLine } from './trust-lines.js';

/** Holds lines back as long as what they wait for is not done, or not proved. One gate serves one order, once. */
export class StageGate {
  private stage: Stage = 0;
  private earlier: readonly TrustLine[] = [];
  private doubts: Promise<readonly Doubt[]> | null = null;

  /**
   * @param links who meets whom, the product’s own ways to servers among them
   * @param linesNow all lines of the order, as they stand
   * @param prove tries new certificates live, and tells what speaks against them
   */
  constructor(
    private readonly links: readonly Meeting[],
    private readonly linesNow: () => Promise<readonly LineRow[]>,
    private readonly prove: (renewals: readonly TrustLine[]) => Promise<readonly Doubt[]>,
  ) {}

  /** Why a batch has to wait, in words; null where it may begin. Batches are asked for in the order of their stages. */
  async heldBackBy({ stage, lines }: Batch): Promise<string | null> {
    const [first] = trustLinesOf(lines);
    if (stage === 0 || !first) return null;
    if (stage !== this.stage) {
      this.earlier = trustLinesOf(await this.linesNow());
      this.stage = stage;
    }
    const waitsFor = whatItWaitsFor(first.change, this.links);
    const awaited = this.earlier.filter(({ change }) => waitsFor(change));
    const open = awaited.filter(({ state }) => state !== 'done' && state !== 'proved');
    if (open.length > 0)
      return byNumber(
        open.length,
        `It waits for # line that is not done (${numbersOf(open)}).`,
        `It waits for # lines that are not done (${numbersOf(open)}).`,
      );
    return stage === 2 ? this.unprovedBy(first.change, awaited) : null;
  }

  /** What new certificates stand in for is taken away only when they are proved. */
  private async unprovedBy(taking: TrustChange, awaited: readonly TrustLine[]): Promise<string | null> {
    if (!awaited.some(({ change }) => givesCertificate(change))) return null;
    const unproved = awaited.filter(({ state }) => state !== 'proved');
    if (unproved.length > 0)
      return byNumber(
        unproved.length,
        `Kept until what replaces it is proved: nothing was read since # line was done (${numbersOf(unproved)}).`,
        `Kept until what replaces it is proved: nothing was read since # lines were done (${numbersOf(unproved)}).`,
      );
    const doubts = await (this.doubts ??= this.prove(this.earlier.filter(isProvedRenewal)));
    const holder = targetOf(taking);
    const partners = partnersOf(holder, this.links);
    const here = doubts.filter(({ between }) => between.includes(holder) && between.some((id) => partners.has(id)));
    return here.length === 0
      ? null
      : `Kept, since a new certificate is not accepted here. ${here.map(({ says }) => says).join(' ')}`;
  }
}

const isProvedRenewal = ({ state, change }: TrustLine): boolean => state === 'proved' && givesCertificate(change);
const numbersOf = (lines: readonly TrustLine[]): string => listed(lines.map(({ position }) => String(position)));
