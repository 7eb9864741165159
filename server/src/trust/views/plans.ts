import { fitsWords, planTrust, sayTrustChange, trustNames, withPromises } from '@loyal-hinge/core';
import type { Certificate, PlantTrust, Strategy, TrustNames, TrustPlan } from '@loyal-hinge/core';
import type { ProposedOrder, TrustPlanView, TrustPlans } from '@loyal-hinge/contract';
import { nodeVerifier } from '../../certificates/node-signatures.js';
import { conflict } from '../../http/problems.js';
import type { JudgedKnown } from '../known/keeper.js';
import { isPushLinkId } from '../lists/push-link.js';

/** Both strategies side by side; the second one where the plant has an authority. */
export async function plansOf(judged: JudgedKnown, authority: Certificate | null, find = ''): Promise<TrustPlans> {
  const { trust } = judged.known;
  return {
    links: trust.links.filter(({ linkId }) => !isPushLinkId(linkId)).length,
    direct: await planView(judged, 'direct', authority, find),
    authority: authority ? await planView(judged, 'authority', authority, find) : null,
    unread: trust.parties.filter(({ lists, way }) => lists === null && way !== 'unknown').map(({ name }) => name),
  };
}

/** A whole plan as a work order to be proposed. */
export async function plannedOrder(
  judged: JudgedKnown,
  strategy: Strategy,
  authority: Certificate | null,
): Promise<ProposedOrder> {
  const { changes } = await plan(judged, strategy, authority);
  const lines = changes.map(({ change, why, linkIds }) => ({ change, why, linkIds: [...linkIds] }));
  if (lines.length === 0) throw conflict('This plan changes nothing.', 'There is nothing to propose.');
  if (lines.length > mostLines)
    throw conflict(
      `This plan has ${lines.length} changes, more than one work order holds (${mostLines}).`,
      'Read the lists of some applications first, or propose their changes from the trust grid.',
    );
  return { title: `Trust for the whole plant: ${titles[strategy]}`, lines };
}

const mostLines = 20_000;
const titles: Readonly<Record<Strategy, string>> = { direct: 'direct trust', authority: 'one authority' };

/** Of each of these the first are told. */
const told = { changes: 500, restarts: 30, remainder: 100 };

const plan = ({ known, keeper }: JudgedKnown, strategy: Strategy, authority: Certificate | null): Promise<TrustPlan> =>
  planTrust(known.trust, { strategy, authority, known: known.shelf }, withPromises(nodeVerifier), {
    judged: keeper.judged,
    plans: keeper.plansOf(strategy, authority?.thumbprint ?? null),
  });

/** The smallest plan of one strategy, in words. */
async function planView(
  judged: JudgedKnown,
  strategy: Strategy,
  authority: Certificate | null,
  find: string,
): Promise<TrustPlanView> {
  const { known } = judged;
  const made = await plan(judged, strategy, authority);
  const names = trustNames([...known.applications.values()], known.shelf);
  const fitting = fittingChanges(made, names, find);
  const remainder = made.remainder.slice(0, told.remainder);
  const links = linkNames(known.trust, new Set(remainder.map(({ linkId }) => linkId)));
  return {
    strategy,
    count: made.changes.length,
    fitting: fitting.length,
    changes: fitting.slice(0, told.changes).map(({ change, why, linkIds }) => {
      const { title, target } = sayTrustChange(change, names);
      return { change, title, target, why, linkIds: [...linkIds] };
    }),
    restartCount: made.restarts.length,
    restarts: made.restarts.slice(0, told.restarts).map((id) => names.application(id)),
    atRenewal: made.atRenewal,
    remainderCount: made.remainder.length,
    remainder: remainder.map(({ linkId, says }) => ({ linkId, link: links.get(linkId) ?? linkId, says })),
    turnCount: made.turns.length,
    mends: made.turns.filter(({ before, after }) => before === 'refused' && after === 'trusted').length,
  };
}

function fittingChanges({ changes }: TrustPlan, names: TrustNames, find: string): TrustPlan['changes'] {
  if (find.trim() === '') return changes;
  const fits = fitsWords(find);
  return changes.filter(({ change, why }) => {
    const { title, target } = sayTrustChange(change, names);
    return fits(title, target, why);
  });
}

const linkNames = ({ links }: PlantTrust, wanted: ReadonlySet<string>): ReadonlyMap<string, string> =>
  new Map(links.filter(({ linkId }) => wanted.has(linkId)).map(({ linkId, name }) => [linkId, name]));
