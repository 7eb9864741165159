import {
  flowsOfOpening,
  judgeWay,
  linkUrlParts,
  neededOpenings,
  openingPurposes,
  portCount,
  readAddress,
  rulesToAdd,
  sayNumbers,
  wayBetween,
  withEdit,
} from '@loyal-hinge/core';
import type {
  HopVerdict,
  LinkInPlant,
  Opening,
  OpeningPurpose,
  PassageChange,
  PassageFact,
  RuleSet,
  TunnelledWay,
  Way,
} from '@loyal-hinge/core';
import type { KnownPassage } from './known.js';

/** One opening of a link, judged over all firewalls on its way. */
export interface JudgedOpening {
  readonly opening: Opening;
  readonly way: Way;
  readonly hops: readonly HopVerdict[];
  readonly verdict: PassageFact['verdict'];
}

/** All openings that a link needs, judged. @param addresses of the server, as they were resolved; empty: as the plant has them */
export function judgedOpenings(
  known: KnownPassage,
  subject: LinkInPlant,
  addresses: readonly string[],
  rulesOf: KnownPassage['rulesOf'] = known.rulesOf,
  through: TunnelledWay | null = known.throughOf(subject.link.id),
): readonly JudgedOpening[] {
  return neededOpenings(
    asDialled(subject),
    addresses.length > 0 ? addresses : addressesOf(subject),
    known.objectPorts,
    through,
  ).flatMap((opening) => judgedOpening(known, opening, rulesOf) ?? []);
}

/** One opening, judged; null: an end of it has no address. */
export function judgedOpening(
  known: KnownPassage,
  opening: Opening,
  rulesOf: KnownPassage['rulesOf'] = known.rulesOf,
): JudgedOpening | null {
  const way = wayBetween(known.plan, opening.between.from, opening.between.to);
  const flows = flowsOfOpening(opening);
  if (!flows) return null;
  const { hops, verdict, stopsAt } = judgeWay(way, flows, rulesOf);
  return { opening, way, hops, verdict: stopsAt?.isPartly ? 'partly' : verdict };
}

/** A client dials from the first of its machine’s addresses. */
const asDialled = (subject: LinkInPlant): LinkInPlant => ({
  ...subject,
  clientMachine: { ...subject.clientMachine, addresses: subject.clientMachine.addresses.slice(0, 1) },
});

/** The server’s address without asking for it: the pinned one, the one in the link’s URL, or those of its machine. */
function addressesOf({ link, serverMachine }: LinkInPlant): readonly string[] {
  if (link.pinnedAddress !== null) return [link.pinnedAddress];
  const host = linkUrlParts(link)?.host ?? '';
  return readAddress(host) === null ? serverMachine.addresses : [host];
}

/** What a check notes of the firewalls on a link’s way; where none is known, nothing. */
export function passageFacts(
  known: KnownPassage,
  subject: LinkInPlant,
  addresses: readonly string[],
): readonly PassageFact[] {
  if (known.plan.devices.length === 0) return [];
  return judgedOpenings(known, subject, addresses).map((judged) => passageFactOf(known, subject.link.name, judged));
}

/** One opening, as a check notes it. @param name for whom it is */
export const passageFactOf = (known: KnownPassage, name: string, judged: JudgedOpening): PassageFact => ({
  kind: 'passage',
  purpose: judged.opening.purpose,
  opens: judged.opening.opens,
  from: judged.opening.source,
  to: judged.opening.destination,
  ports: sayNumbers(judged.opening.ports),
  verdict: judged.verdict,
  firewalls: firewallsOf(known, name, judged).map(({ change, ...told }) => ({
    ...told,
    change: change && { rules: change.rules, commands: change.commands, undo: change.undo },
    takenAt: known.about.get(told.id)?.takenAt ?? null,
  })),
});

/** Each firewall of a judged way, with the smallest change where it stops what is needed. @param name for whom */
export const firewallsOf = (known: KnownPassage, name: string, { hops, opening }: JudgedOpening) =>
  hops.map((hop) => ({
    id: hop.hop.device.id,
    name: hop.hop.device.name,
    verdict: hop.isPartly ? ('partly' as const) : hop.verdict,
    rule: hop.rule && { table: hop.rule.table, chain: hop.rule.chain, index: hop.rule.index, text: hop.rule.text },
    why: hop.why,
    translated: hop.translated,
    isAnswer: hop.isAnswer,
    change: changeAt(known.rulesOf(hop.hop.device.id), hop, name, opening.purpose),
  }));

/**
 * The smallest changes at all firewalls on the way of an opening, each reckoned with the ones before it carried out: behind a
 * firewall that is opened, another one may stop it. @param name for whom
 */
export function changesFor(known: KnownPassage, opening: Opening, name: string): readonly PassageChange[] {
  const changes: PassageChange[] = [];
  const changed = new Map<string, RuleSet>();
  const rulesOf = (id: string): RuleSet | null => changed.get(id) ?? known.rulesOf(id);
  for (let round = 0; round < mostFirewalls; round += 1) {
    const stopped = judgedOpening(known, opening, rulesOf)?.hops.find(
      ({ verdict }) => verdict === 'drop' || verdict === 'reject',
    );
    const rules = stopped && rulesOf(stopped.hop.device.id);
    const change = rules && changeAt(rules, stopped, name, opening.purpose);
    if (!change) break;
    const after = change.rules.reduce<RuleSet | null>((set, text, index) => {
      const at = {
        table: change.table,
        chain: change.chain,
        index: (change.before ?? lengthOf(rules, change)) + index,
      };
      return set && withEdit(set, { kind: 'add', at, text });
    }, rules);
    changes.push(change);
    if (!after) break;
    changed.set(change.firewallId, after);
  }
  return changes;
}

const mostFirewalls = 16;
const lengthOf = (rules: RuleSet, { table, chain }: PassageChange): number =>
  [...rules.chains.values()]
    .find((each) => each.table === table && each.name === chain)
    ?.rules.filter((rule) => !rule.isImplied).length ?? 0;

function changeAt(rules: RuleSet | null, hop: HopVerdict, link: string, purpose: OpeningPurpose): PassageChange | null {
  if (!rules || (hop.verdict !== 'drop' && hop.verdict !== 'reject')) return null;
  const changes = rulesToAdd(rules, hop, `${link}, ${purpose}`.replace(/[^\p{L}\p{N} ,._-]/gu, ' '));
  const [first] = changes ?? [];
  if (!changes || !first) return null;
  const { table, chain } = first.edit.at;
  return {
    kind: 'add-rules',
    firewallId: hop.hop.device.id,
    what: `${link}, ${openingPurposes[purpose]}`,
    hook: hop.hop.hook,
    in: hop.hop.in,
    out: hop.hop.out,
    table,
    chain,
    before: hop.rule?.index ?? null,
    rules: changes.flatMap(({ edit }) => (edit.kind === 'remove' ? [] : [edit.text])),
    commands: changes.flatMap(({ commands }) => commands),
    undo: changes.flatMap(({ undo }) => undo),
  };
}

export const portsOfOpening = ({ ports }: Opening): number => portCount(ports);
