import { PlantJudge } from '../plant-trust/plant-judge.js';
import type { NeedVerdict } from '../plant-trust/plant-judge.js';
import { withPromises } from '../plant-trust/promised.js';
import type { PlantTrust, Shelf, TrustLink } from '../plant-trust/plant-trust.js';
import { onPaper, targetOf } from '../plant-trust/trust-change.js';
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
  const after = onPaper(plant, changes, shelf);
  const turned = new Set(changes.map(targetOf));
  const linksAt = (links: readonly TrustLink[]): readonly TrustLink[] =>
    links.filter(({ clientId, serverId }) => turned.has(clientId) || turned.has(serverId));
  const were = byLink(await judge.needs({ parties: plant.parties, links: linksAt(plant.links) }));
  const will = byLink(await judge.needs({ parties: after.parties, links: linksAt(after.links) }));
  return linksAt(plant.links).flatMap((link) => turnOf(link, were.get(link.linkId) ?? [], will.get(link.linkId) ?? []));
}

/** How a link turns between two judgements; nothing where it stays as it is. */
export function turnOf(
  { linkId, name }: Pick<TrustLink, 'linkId' | 'name'>,
  were: readonly NeedVerdict[],
  willBe: readonly NeedVerdict[],
): readonly LinkTurn[] {
  const [was, will] = [trustState(were), trustState(willBe)];
  if (was.state === will.state) return [];
  return [{ linkId, name, before: was.state, after: will.state, why: will.why ?? was.why ?? '' }];
}

function byLink(verdicts: readonly NeedVerdict[]): ReadonlyMap<string, readonly NeedVerdict[]> {
  const found = new Map<string, NeedVerdict[]>();
  for (const verdict of verdicts) {
    const own = found.get(verdict.need.link.linkId);
    if (own) own.push(verdict);
    else found.set(verdict.need.link.linkId, [verdict]);
  }
  return found;
}

/** What the two needs of a link come to, without saying why. */
export const stateOf = (verdicts: readonly NeedVerdict[]): TrustState =>
  verdicts.some(({ result }) => result === 'bad')
    ? 'refused'
    : verdicts.some(({ result }) => result === 'unknown')
      ? 'unknown'
      : 'trusted';

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
