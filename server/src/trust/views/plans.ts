import { PlantJudge, planTrust, sayTrustChange, trustNames, whatIf } from '@loyal-hinge/core';
import type { Certificate, Strategy, TrustPlan } from '@loyal-hinge/core';
import type { TrustPlanView, TrustPlans } from '@loyal-hinge/contract';
import type { KnownTrust } from '../known/known-trust.js';
import { nodeVerifier } from '../../certificates/node-signatures.js';

/** Both strategies side by side; the second one where the plant has an authority. */
export async function plansOf(known: KnownTrust, authority: Certificate | null): Promise<TrustPlans> {
  return {
    links: known.plant.links.length,
    direct: await planView(known, 'direct', authority),
    authority: authority ? await planView(known, 'authority', authority) : null,
    unread: known.trust.parties.filter(({ lists, way }) => lists === null && way !== 'unknown').map(({ name }) => name),
  };
}

/** The smallest plan of one strategy, in words and with what it turns. */
export async function planView(
  known: KnownTrust,
  strategy: Strategy,
  authority: Certificate | null,
): Promise<TrustPlanView> {
  const { trust, shelf } = known;
  const plan = await planTrust(trust, { strategy, authority, known: shelf }, nodeVerifier);
  const names = trustNames(known.plant.applications, shelf);
  const links = new Map(trust.links.map(({ linkId, name }) => [linkId, name]));
  const turns = await whatIf(
    trust,
    plan.changes.map(({ change }) => change),
    shelf,
    nodeVerifier,
  );
  return {
    strategy,
    changes: plan.changes.map(({ change, why, linkIds }) => {
      const { title, target } = sayTrustChange(change, names);
      return { change, title, target, why, linkIds: [...linkIds] };
    }),
    restarts: plan.restarts.map((id) => names.application(id)),
    atRenewal: plan.atRenewal,
    remainder: plan.remainder.map(({ linkId, says }) => ({ linkId, link: links.get(linkId) ?? linkId, says })),
    turns: [...turns],
    mends: await mendedBy(known, plan),
  };
}

/** Links that are refused now and for which the plan leaves nothing over. */
async function mendedBy({ trust }: KnownTrust, { remainder }: TrustPlan): Promise<number> {
  const verdicts = await new PlantJudge(trust, nodeVerifier).needs(trust);
  const left = new Set(remainder.map(({ linkId }) => linkId));
  const refused = verdicts.filter(({ result }) => result === 'bad').map(({ need }) => need.link.linkId);
  return new Set(refused.filter((linkId) => !left.has(linkId))).size;
}
