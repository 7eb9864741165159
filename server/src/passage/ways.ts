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
} from '@loyal-hinge/core';
import type {
  HopVerdict,
  LinkInPlant,
  Opening,
  OpeningPurpose,
  PassageChange,
  PassageFact,
  RuleSet,
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
): readonly JudgedOpening[] {
  const { clientMachine, serverMachine } = subject;
  return neededOpenings(
    asDialled(subject),
    addresses.length > 0 ? addresses : addressesOf(subject),
    known.objectPorts,
  ).flatMap((opening) => {
    const [from, to] = opening.opens === 'client' ? [clientMachine, serverMachine] : [serverMachine, clientMachine];
    const way = wayBetween(known.plan, from, to);
    const flows = flowsOfOpening(opening);
    if (!flows) return [];
    const { hops, verdict, stopsAt } = judgeWay(way, flows, rulesOf);
    return [{ opening, way, hops, verdict: stopsAt?.isPartly ? 'partly' : verdict }];
  });
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
  return judgedOpenings(known, subject, addresses).map((judged) => ({
    kind: 'passage',
    purpose: judged.opening.purpose,
    opens: judged.opening.opens,
    from: judged.opening.source,
    to: judged.opening.destination,
    ports: sayNumbers(judged.opening.ports),
    verdict: judged.verdict,
    firewalls: firewallsOf(known, subject, judged).map(({ change, ...told }) => ({
      ...told,
      change: change && { rules: change.rules, commands: change.commands, undo: change.undo },
      takenAt: known.about.get(told.id)?.takenAt ?? null,
    })),
  }));
}

/** Each firewall of a judged way, with the smallest change where it stops the link. */
export const firewallsOf = (known: KnownPassage, { link }: LinkInPlant, { hops, opening }: JudgedOpening) =>
  hops.map((hop) => ({
    id: hop.hop.device.id,
    name: hop.hop.device.name,
    verdict: hop.isPartly ? ('partly' as const) : hop.verdict,
    rule: hop.rule && { table: hop.rule.table, chain: hop.rule.chain, index: hop.rule.index, text: hop.rule.text },
    why: hop.why,
    translated: hop.translated,
    isAnswer: hop.isAnswer,
    change: changeAt(known.rulesOf(hop.hop.device.id), hop, link.name, opening.purpose),
  }));

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
