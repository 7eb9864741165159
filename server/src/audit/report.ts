import { byNumber, counted } from '@loyal-hinge/core';
import type { TrailReport } from '@loyal-hinge/contract';
import type { SealMaker, SealedHead } from './seals.js';
import type { ChainReport } from './trail.js';

const mostNamed = 20;

/** What the chain and the sealed heads together say of the trail. Without a maker of seals only the chain was looked at. */
export function trailReport(chain: ChainReport, heads: readonly SealedHead[], maker: SealMaker | null): TrailReport {
  const faults: string[] = [];
  if (chain.breaks.length > 0)
    faults.push(`It is broken at ${named(chain.breaks)}: that row, or one before it, was changed or taken away.`);
  const checked = heads.filter((head) => maker?.fits(head) !== null);
  const forged = checked.filter((head) => maker?.fits(head) === false);
  if (forged.length > 0)
    faults.push(
      byNumber(forged.length, '# seal was not made by Loyal Hinge.', '# seals were not made by Loyal Hinge.'),
    );
  const good = checked.filter((head) => !forged.includes(head));
  const beyond = good.filter(({ sequence }) => sequence > chain.lastSequence);
  if (beyond.length > 0)
    faults.push(
      `Its end is missing: it was sealed up to row ${Math.max(...beyond.map(({ sequence }) => sequence))}, and ends at ${chain.lastSequence}.`,
    );
  const other = good.filter(({ sequence, hash }) => sequence <= chain.lastSequence && chain.hashes[sequence] !== hash);
  if (other.length > 0)
    faults.push(
      `It was rewritten: at ${named(other.map(({ sequence }) => sequence))} it is not what was sealed there.`,
    );
  const foreign = heads.length - checked.length;
  if (foreign > 0)
    faults.push(`${counted(foreign, 'seal')} can’t be checked: made with another sealing key than the present one.`);
  const newest = good.reduce<SealedHead | null>(
    (best, head) => (best && best.sequence >= head.sequence ? best : head),
    null,
  );
  return {
    rows: chain.rows,
    isWhole: faults.length === 0,
    faults,
    sealed: newest && maker ? { upTo: newest.sequence, at: newest.at } : null,
    seals: maker ? good.length : 0,
  };
}

const named = (sequences: readonly number[]): string => {
  const some = [...new Set(sequences)].slice(0, mostNamed).join(', ');
  return sequences.length > mostNamed ? `${some} and more` : some;
};
