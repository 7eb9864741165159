import type { TrustLink } from '../trust/plant-trust/plant-trust.js';
import { stageOf, targetOf } from '../trust/plant-trust/trust-change.js';
import type { TrustChange } from '../trust/plant-trust/trust-change.js';

/** A link as far as it says who meets whom. */
export type Meeting = Pick<TrustLink, 'clientId' | 'serverId'>;

/** The applications that one meets over links. */
export const partnersOf = (applicationId: string, links: readonly Meeting[]): ReadonlySet<string> =>
  new Set(
    links.flatMap(({ clientId, serverId }) =>
      clientId === applicationId ? [serverId] : serverId === applicationId ? [clientId] : [],
    ),
  );

/**
 * Tells which changes must have been made before another one is, so that nothing is cut off in between. A new certificate
 * waits for the trust that those give whom it is shown to. What takes trust away waits for the trust that is given to the
 * same application, and for the new certificates of all whom that application meets.
 */
export function whatItWaitsFor(change: TrustChange, links: readonly Meeting[]): (earlier: TrustChange) => boolean {
  const [stage, target] = [stageOf(change), targetOf(change)];
  const partners = partnersOf(target, links);
  return (earlier) => {
    const before = stageOf(earlier);
    if (before >= stage) return false;
    return stage === 2 && before === 0 ? targetOf(earlier) === target : partners.has(targetOf(earlier));
  };
}
