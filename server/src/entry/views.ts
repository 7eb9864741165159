import {
  doorKey,
  doorsOf,
  doorWhatIf,
  endpointsUnder,
  fitsWords,
  isWeakDoor,
  largestClosing,
  noFloor,
  passageOf,
  sayDoor,
  sayNeed,
  wayToClosing,
  weightOfDoor,
} from '@loyal-hinge/core';
import type { Door, DoorRule, DoorTurn, OfferedDoor } from '@loyal-hinge/core';
import type { DoorTurns, EntryClosing, EntryPage, EntryView, ServerAtDoors } from '@loyal-hinge/contract';
import type { PlacedServer, PlantDoors } from './servers-at-doors.js';

const usualPage = 50;
const mostTurns = 500;
const mostChecked = 20;

/** Servers with their doors, those that fit, some at a time. */
export function entryViewOf(doors: PlantDoors, wish: EntryPage): EntryView {
  const shown = doors.servers.map((server) => serverAtDoors(server, doors)).sort(byWeakness);
  const fits = fitsWords(wish.find ?? '');
  const fitting = shown.filter((server) => isWished(server, wish.only) && fits(...wordsOf(server)));
  const from = wish.from ?? 0;
  const { close, keep } = largestClosing(doors.servers, doors.floor);
  return {
    from,
    fitting: fitting.length,
    servers: fitting.slice(from, from + (wish.most ?? usualPage)),
    counts: {
      servers: shown.length,
      unseen: shown.filter(({ seenAt }) => seenAt === null).length,
      weakDoors: close.length + keep.length,
      closable: close.length,
    },
    floor: doors.floor,
  };
}

function serverAtDoors(server: PlacedServer, { floor }: PlantDoors): ServerAtDoors {
  const behind = new Map<string, { id: string; name: string }[]>();
  const out: ServerAtDoors['out'] = [];
  for (const link of server.seenAt === null ? [] : server.links) {
    const { door, fault } = passageOf(server.endpoints, link);
    const named = { id: link.id, name: link.name };
    if (fault !== null || !door) out.push({ ...named, why: fault ?? '' });
    else behind.set(doorKey(door), [...(behind.get(doorKey(door)) ?? []), named]);
  }
  const { id, name, machine, zone, seenAt, links } = server;
  return {
    ...{ id, name, machine, zone, seenAt, out },
    doors: doorsOf(server.endpoints, floor).map((door) => ({
      ...door,
      weaknesses: [...door.weaknesses],
      links: behind.get(doorKey(door)) ?? [],
    })),
    links: links.length,
  };
}

/** What is ill stands first; servers of the same kind stay in the order of their zones. */
const byWeakness = (left: ServerAtDoors, right: ServerAtDoors): number => illnessOf(right) - illnessOf(left);

const illnessOf = ({ doors, seenAt }: ServerAtDoors): number =>
  seenAt === null ? -1 : Math.max(0, ...doors.map(weightOfDoor));

function isWished({ seenAt, doors }: ServerAtDoors, only: EntryPage['only']): boolean {
  switch (only) {
    case 'unseen':
      return seenAt === null;
    case 'weak':
      return doors.some(isWeakDoor);
    case 'unused':
      return doors.some((door) => isWeakDoor(door) && door.links.length === 0);
    default:
      return true;
  }
}

const wordsOf = ({ name, machine, zone, doors, out }: ServerAtDoors): readonly string[] => [
  name,
  machine,
  zone,
  ...doors.flatMap((door) => [sayDoor(door), ...door.links.map((link) => link.name)]),
  ...out.map((link) => link.name),
];

/** What can be closed today, and what it takes to close the rest. */
export function entryClosingOf({ servers, floor }: PlantDoors): EntryClosing {
  const { close, keep } = largestClosing(servers, floor);
  const way = wayToClosing(servers, floor);
  const { nameOf, linkOf } = namesIn(servers);
  const shown = ({ serverId, door }: { readonly serverId: string; readonly door: OfferedDoor }) => ({
    serverId,
    server: nameOf(serverId),
    door: plain(door),
  });
  return {
    close: close.map(shown),
    keep: keep.map((kept) => ({ ...shown(kept), links: kept.linkIds.map(linkOf) })),
    needs: way.needs.map(({ need, linkIds }) => ({ says: sayNeed(need, nameOf), links: linkIds.map(linkOf) })),
    stuck: way.stuck.map(linkOf),
    isShortest: way.isShortest,
  };
}

/** What would become of links if rules on doors were followed. */
export function doorTurnsOf({ servers }: PlantDoors, rules: readonly DoorRule[]): DoorTurns {
  const turns = doorWhatIf(servers, rules);
  const { nameOf } = namesIn(servers);
  const count = (turn: DoorTurn['turn']): number => turns.filter((one) => one.turn === turn).length;
  const order: readonly DoorTurn['turn'][] = ['cut off', 'moves', 'gets in'];
  return {
    counts: { moves: count('moves'), cutOff: count('cut off'), getsIn: count('gets in') },
    turns: [...turns]
      .sort((left, right) => order.indexOf(left.turn) - order.indexOf(right.turn))
      .slice(0, mostTurns)
      .map(({ serverId, before, after, way, ...turn }) => ({
        ...turn,
        server: nameOf(serverId),
        before: before && plain(before),
        after: after && plain(after),
        needs: (way?.needs ?? []).map((need) => sayNeed(need, nameOf)),
      })),
    lines: servers.flatMap((server) => linesAt(server, rules)),
  };
}

const plain = ({ policy, mode, token }: Door): Door => ({ policy, mode, token });

/** What is to be done at one server, opening before closing. */
function linesAt({ id, name, endpoints, links }: PlacedServer, rules: readonly DoorRule[]): DoorTurns['lines'] {
  const [before, after] = [endpoints, endpointsUnder(id, endpoints, rules)].map((offered) => doorsOf(offered, noFloor));
  if (!before || !after) return [];
  const missingIn = (doors: readonly Door[], others: readonly Door[]): readonly Door[] => {
    const there = new Set(others.map(doorKey));
    return doors.filter((door) => !there.has(doorKey(door))).map(plain);
  };
  const linkIds = links.slice(0, mostChecked).map((link) => link.id);
  return (
    [
      { kind: 'open-doors', serverId: id, doors: missingIn(after, before) },
      { kind: 'close-doors', serverId: id, doors: missingIn(before, after) },
    ] as const
  )
    .filter(({ doors }) => doors.length > 0)
    .map((change) => ({ change, server: name, linkIds }));
}

/** The names of servers, links and clients, which needs speak of by their ids. */
function namesIn(servers: readonly PlacedServer[]) {
  const names = new Map<string, string>();
  for (const { id, name, links } of servers) {
    names.set(id, name);
    for (const link of links) names.set(link.id, link.name).set(link.client.id, link.client.name);
  }
  const nameOf = (id: string): string => names.get(id) ?? id;
  return { nameOf, linkOf: (id: string) => ({ id, name: nameOf(id) }) };
}
