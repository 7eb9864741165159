import { listed } from '@loyal-hinge/core';
import type { ServiceKind } from '@loyal-hinge/core';
import type { FirewallRule, LinkPassage, PassageOpening } from '@loyal-hinge/contract';

type Verdict = PassageOpening['verdict'];

/** What becomes of an opening, in a word. */
export const verdictWords: Readonly<Record<Verdict, string>> = {
  accept: 'open',
  drop: 'dropped',
  reject: 'refused',
  partly: 'partly open',
  unknown: 'can’t be told',
  'not-told': 'rules not known',
};
export const isStopped = (verdict: Verdict): boolean => verdict === 'drop' || verdict === 'reject';

export const purposeWords: Readonly<Record<PassageOpening['purpose'], string>> = {
  entrance: 'Tunnel’s entrance',
  tunnel: 'Tunnel',
  endpoint: 'Endpoint',
  redundant: 'Redundant server',
  mapper: 'Mapper',
  objects: 'Objects',
  'callback-mapper': 'Way back: mapper',
  'callback-objects': 'Way back: objects',
  names: 'Name service',
  time: 'Time',
  discovery: 'Discovery',
  management: 'Management of certificates',
  device: 'Device behind the server',
};

export const serviceWords: Readonly<Record<ServiceKind, string>> = {
  names: 'name service',
  time: 'time',
  discovery: 'discovery server',
  management: 'management of certificates',
};

export const worthWords: Readonly<Record<FirewallRule['worth'], string>> = {
  used: 'needed',
  'too-wide': 'too wide',
  unneeded: 'nobody needs it',
  shadowed: 'never reached',
  redundant: 'changes nothing',
  stops: 'stops',
  silent: 'decides nothing',
  'not-told': 'can’t be told',
};

/** What a rule is worth, in a sentence. */
export function sayWorth({ worth, links, shadowedBy }: FirewallRule): string {
  switch (worth) {
    case 'used':
      return 'Lets through what is needed, and no more.';
    case 'too-wide':
      return 'Lets through what is needed, and more than that.';
    case 'unneeded':
      return 'What it lets through, nobody in the plant needs.';
    case 'shadowed':
      return shadowedBy.length === 0
        ? 'Nothing gets as far as this rule.'
        : `All that it would decide is decided before, by ${listed(shadowedBy.slice(0, 4).map(({ chain, index }) => `rule ${index + 1} of ${chain}`))}.`;
    case 'redundant':
      return 'Without it, everything would be the same.';
    case 'stops':
      return links.length === 0
        ? 'Stops connections; none that is needed.'
        : `Stops ${listed(links.map(({ name }) => name))}.`;
    case 'silent':
      return 'It counts, marks or translates, or is for connections that are open already.';
    case 'not-told':
      return 'It depends on what rules don’t tell: a rate, a program, a list kept elsewhere.';
  }
}

/** The worst of what is needed. */
export function worstOf({ openings }: LinkPassage): Verdict {
  const order: readonly Verdict[] = ['drop', 'reject', 'partly', 'unknown', 'not-told', 'accept'];
  return order.find((verdict) => openings.some((opening) => opening.verdict === verdict)) ?? 'accept';
}

/** The firewall at which a link stops; null: it stops at none. */
export function stopOf(link: LinkPassage): PassageOpening['firewalls'][number] | null {
  const stopped = link.openings.find(({ verdict }) => isStopped(verdict));
  return stopped?.firewalls.find(({ verdict }) => isStopped(verdict)) ?? null;
}
