import { planTrust, sayTrustChange, trustNames, withPromises } from '@loyal-hinge/core';
import type { Certificate, Strategy, TrustPlan } from '@loyal-hinge/core';
import type { TrustPlanView, TrustPlans } from '@loyal-hinge/contract';
import { nodeVerifier } from '../../certificates/node-signatures.js';
import type { JudgedKnown } from '../known/keeper.js';
import { isPushLinkId } from '../lists/push-link.js';

/** Both strategies side by side; the second one where the plant has an authority. */
export async function plansOf(judged: JudgedKnown, authority: Certificate | null): Promise<TrustPlans> {
  const { trust } = judged.known;
  return {
    links: trust.links.filter(({ linkId }) => !isPushLinkId(linkId)).length,
    direct: await planView(judged, 'direct', authority),
    authority: authority ? await planView(judged, 'authority', authority) : null,
    unread: trust.parties.filter(({ lists, way }) => lists === null && way !== 'unknown').map(({ name }) => name),
  };
}

/** The smallest plan of one strategy, in words and with what it turns. */
async function planView(
  { known, judged, keeper }: JudgedKnown,
  strategy: Strategy,
  authority: Certificate | null,
): Promise<TrustPlanView> {
  const { trust, shelf } = known;
  const plans = keeper.plansOf(strategy, authority?.thumbprint ?? null);
  const plan = await planTrust(trust, { strategy, authority, known: shelf }, withPromises(nodeVerifier), {
    judged: keeper.judged,
    plans,
  });
  const names = trustNames([...known.applications.values()], shelf);
  const links = new Map(trust.links.map(({ linkId, name }) => [linkId, name]));
  return {
    strategy,
    changes: plan.changes.map(({ change, why, linkIds }) => {
      const { title, target } = sayTrustChange(change, names);
      return { change, title, target, why, linkIds: [...linkIds] };
    }),
    restarts: plan.restarts.map((id) => names.application(id)),
    atRenewal: plan.atRenewal,
    remainder: plan.remainder.map(({ linkId, says }) => ({ linkId, link: links.get(linkId) ?? linkId, says })),
    turns: [...plan.turns],
    mends: await mendedBy(judged, plan),
  };
}

/** Links that are refused now and for which the plan leaves nothing over. */
async function mendedBy({ plant, verdictsOf }: JudgedKnown['judged'], { remainder }: TrustPlan): Promise<number> {
  const left = new Set(remainder.map(({ linkId }) => linkId));
  let mended = 0;
  for (const link of plant.links)
    if (!left.has(link.linkId) && (await verdictsOf(link)).some(({ result }) => result === 'bad')) mended += 1;
  return mended;
}
