import { PlantJudge } from '../plant-trust/plant-judge.js';
import type { NeedVerdict } from '../plant-trust/plant-judge.js';
import { withPromises } from '../plant-trust/promised.js';
import type { PlantTrust, Shelf } from '../plant-trust/plant-trust.js';
import { onPaper } from '../plant-trust/trust-change.js';
import type { TrustChange } from '../plant-trust/trust-change.js';
import { sayProblem } from '../validation/problem.js';
import type { SignatureVerifier } from '../x509/signatures.js';

/** A link that changes come to: what it is before them and after them, and why. */
export interface LinkTurn {
  readonly linkId: string;
  readonly name: string;
  readonly before: TrustState;
  readonly after: TrustState;
  readonly why: string;
}

/** Whether both ends accept each other’s certificates. */
export type TrustState = 'trusted' | 'refused' | 'unknown';

/** Which links turn by changes, judged on paper: nothing is touched. Certificates that are still to be signed are taken as promised. */
export async function whatIf(
  plant: PlantTrust,
  changes: readonly TrustChange[],
  shelf: Shelf,
  verifier: SignatureVerifier,
): Promise<readonly LinkTurn[]> {
  const judge = new PlantJudge(plant, withPromises(verifier));
  const [before, after] = [await judge.needs(plant), await judge.needs(onPaper(plant, changes, shelf))];
  return plant.links.flatMap((link) => {
    const of = (verdicts: readonly NeedVerdict[]) => verdicts.filter(({ need }) => need.link.linkId === link.linkId);
    const [was, will] = [trustState(of(before)), trustState(of(after))];
    return was.state === will.state
      ? []
      : [
          {
            linkId: link.linkId,
            name: link.name,
            before: was.state,
            after: will.state,
            why: will.why ?? was.why ?? '',
          },
        ];
  });
}

/** What the two needs of a link come to. */
export function trustState(verdicts: readonly NeedVerdict[]): {
  readonly state: TrustState;
  readonly why: string | null;
} {
  for (const verdict of verdicts)
    if (verdict.result === 'bad') {
      const { holder, shown } = verdict.need;
      return {
        state: 'refused',
        why: `${holder.name} refuses the certificate of ${shown.name}: ${verdict.problems.map(sayProblem).join(' ')}`,
      };
    }
  const open = verdicts.find((verdict) => verdict.result === 'unknown');
  return open?.result === 'unknown' ? { state: 'unknown', why: open.says } : { state: 'trusted', why: null };
}
