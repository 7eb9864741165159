import { byNumber, counted, idleIn, stateOf } from '@loyal-hinge/core';
import type { TrustParty } from '@loyal-hinge/core';
import type { TrustFinding } from '@loyal-hinge/contract';
import type { JudgedKnown } from '../known/keeper.js';
import { isPushLinkId } from '../lists/push-link.js';

const aWhileMs = 150;

/**
 * Judges for a while what applications make of each other.
 * @param from the place of an application among all
 * @returns the place to go on from; null where all is judged
 */
export async function judgedOn({ known: { trust }, judged }: JudgedKnown, from: number): Promise<number | null> {
  const until = performance.now() + aWhileMs;
  for (let place = from; place < trust.parties.length; place += 1) {
    if (place > from && performance.now() > until) return place;
    const needs = judged.needsOf(trust.parties[place] as TrustParty);
    if (needs instanceof Promise) await needs;
  }
  return null;
}

const findings = new WeakMap<object, TrustFinding>();

/** What the grid comes to, over all links and lists; counted again only when something of them may have changed. */
export async function findingOf(asked: JudgedKnown): Promise<TrustFinding> {
  const { asOf } = asked.judged;
  const finding = findings.get(asOf) ?? (await countedFinding(asked));
  findings.set(asOf, finding);
  return finding;
}

async function countedFinding({ known: { trust }, judged }: JudgedKnown): Promise<TrustFinding> {
  let [refused, unknown, links, idle] = [0, 0, 0, 0];
  for (const link of trust.links) {
    // The product’s own ways to the servers are no links of the plant.
    if (isPushLinkId(link.linkId)) continue;
    links += 1;
    const there = judged.verdictsOf(link);
    const state = stateOf(there instanceof Promise ? await there : there);
    if (state === 'refused') refused += 1;
    if (state === 'unknown') unknown += 1;
  }
  for (const party of trust.parties) {
    const needs = judged.needsOf(party);
    idle += idleIn(party, needs instanceof Promise ? await needs : needs).length;
  }
  const unread = trust.parties.filter(({ lists, way }) => lists === null && way !== 'unknown').length;
  return { headline: sayFinding({ links, refused, unknown, idle, unread }), refused, unknown, idle, unread };
}

function sayFinding(found: Omit<TrustFinding, 'headline'> & { readonly links: number }): string {
  const { links, refused, unknown, idle, unread } = found;
  if (links === 0) return 'There is no link yet, so no trust is needed.';
  const parts = [
    refused === 0
      ? unknown === 0
        ? 'No link stops at trust'
        : `No link is known to stop at trust; of ${counted(unknown, 'link')} it is not known`
      : byNumber(refused, '# link stops at trust', '# links stop at trust'),
    ...(idle > 0
      ? [byNumber(idle, '# trusted certificate serves no link', '# trusted certificates serve no link')]
      : []),
    ...(unread > 0 ? [`the lists of ${counted(unread, 'application')} have not been read yet`] : []),
  ];
  return `${parts.join('; ')}.`;
}
