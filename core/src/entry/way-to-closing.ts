import { demandsAt } from './closing.js';
import { doorsOf, isWeakDoor } from './doors.js';
import type { ServerDoors } from './doors.js';
import type { EntryFloor } from './floor.js';
import { costOf, needKey, waysIn } from './ways-in.js';
import type { EntryNeed, WayIn } from './ways-in.js';

/** What is to be done so that every weak door can be closed. */
export interface WayToClosing {
  /** Each change once, with the links that it serves; what serves most stands first. */
  readonly needs: readonly { readonly need: EntryNeed; readonly linkIds: readonly string[] }[];
  /** Links for which there is no way. */
  readonly stuck: readonly string[];
  /** False where so much hangs together that not all was tried out: there may be a shorter way. */
  readonly isShortest: boolean;
}

/** So many steps are taken to find the shortest way among links that share changes; beyond, a short one is told. */
const mostTried = 20_000;

/**
 * The shortest way to closing all weak doors: for every link that gets in by weak doors alone one way in by a better one, so
 * that all changes together cost least. A change that serves several links (a policy for their client, a door of their
 * server) counts once.
 */
export function wayToClosing(servers: readonly ServerDoors[], floor: EntryFloor): WayToClosing {
  const asked: Asked[] = [];
  const stuck: string[] = [];
  for (const server of servers) {
    const doors = doorsOf(server.endpoints, floor);
    const weak = doors.filter(isWeakDoor);
    if (weak.length === 0) continue;
    const links = new Map(server.links.map((link) => [link.id, link]));
    for (const { linkId } of demandsAt(server, weak)) {
      const link = links.get(linkId);
      const ways = link ? waysIn(server, link) : [];
      if (ways.length === 0) stuck.push(linkId);
      else asked.push({ linkId, ways });
    }
  }
  const groups = groupsThatShare(alike(asked)).map(cheapestFor);
  return {
    needs: together(groups.flatMap(({ taken }) => taken)),
    stuck,
    isShortest: groups.every(({ isShortest }) => isShortest),
  };
}

interface Asked {
  readonly linkId: string;
  readonly ways: readonly WayIn[];
}

/** Links that have the same ways but for changes of their own: what is best for one of them is best for all. */
interface Alike {
  readonly links: readonly Asked[];
  /** What each way needs of others, and costs every one of the links for itself. */
  readonly ways: readonly {
    readonly shared: readonly string[];
    readonly sharedCosts: readonly number[];
    readonly own: number;
  }[];
}

const isOwn = ({ kind }: EntryNeed): boolean => kind === 'free choice' || kind === 'identity';

function alike(asked: readonly Asked[]): readonly Alike[] {
  const found = new Map<string, Asked[]>();
  for (const one of asked) {
    const signature = one.ways
      .map(({ needs }) => needs.map((need) => (isOwn(need) ? need.kind : needKey(need))).join(', '))
      .join('; ');
    const links = found.get(signature);
    if (links) links.push(one);
    else found.set(signature, [one]);
  }
  return [...found.values()].map((links) => ({
    links,
    ways: (links[0]?.ways ?? []).map(({ needs }) => {
      const shared = needs.filter((need) => !isOwn(need));
      return {
        shared: shared.map(needKey),
        sharedCosts: shared.map((need) => costOf([need])),
        own: costOf(needs.filter(isOwn)) * links.length,
      };
    }),
  }));
}

/** Those that share no change, not even by way of others, are of different groups. */
function groupsThatShare(asked: readonly Alike[]): readonly (readonly Alike[])[] {
  const parents = asked.map((_, index) => index);
  const rootOf = (index: number): number => {
    let root = index;
    while (parents[root] !== root) root = parents[root] ?? root;
    parents[index] = root;
    return root;
  };
  const firstWith = new Map<string, number>();
  asked.forEach(({ ways }, index) => {
    for (const key of ways.flatMap(({ shared }) => shared)) {
      const other = firstWith.get(key);
      if (other === undefined) firstWith.set(key, index);
      else parents[rootOf(index)] = rootOf(other);
    }
  });
  const groups = new Map<number, Alike[]>();
  asked.forEach((one, index) => {
    const group = groups.get(rootOf(index));
    if (group) group.push(one);
    else groups.set(rootOf(index), [one]);
  });
  return [...groups.values()];
}

interface Cheapest {
  readonly taken: readonly { readonly linkId: string; readonly way: WayIn }[];
  readonly isShortest: boolean;
}

/** One way for each, all changes together as cheap as can be: the cheapest at each step first, then all others that may be cheaper. */
function cheapestFor(group: readonly Alike[]): Cheapest {
  const made = new Map<string, number>();
  const taken: number[] = [];
  let best: readonly number[] = [];
  let least = Infinity;
  let tried = 0;
  const extraOf = ({ shared, sharedCosts, own }: Alike['ways'][number]): number =>
    shared.reduce((sum, key, index) => sum + (made.get(key) ? 0 : (sharedCosts[index] ?? 0)), own);
  const count = (keys: readonly string[], by: 1 | -1): void => {
    for (const key of keys) made.set(key, (made.get(key) ?? 0) + by);
  };
  const walk = (cost: number): void => {
    tried += 1;
    if (cost >= least || (tried > mostTried && least < Infinity)) return;
    const asked = group[taken.length];
    if (!asked) {
      best = [...taken];
      least = cost;
      return;
    }
    const ordered = asked.ways
      .map((way, index) => ({ way, index, extra: extraOf(way) }))
      .sort((left, right) => left.extra - right.extra);
    for (const { way, index, extra } of ordered) {
      taken.push(index);
      count(way.shared, 1);
      walk(cost + extra);
      count(way.shared, -1);
      taken.pop();
    }
  };
  walk(0);
  return {
    taken: group.flatMap(({ links }, at) =>
      links.flatMap(({ linkId, ways }) => {
        const way = ways[best[at] ?? 0];
        return way ? [{ linkId, way }] : [];
      }),
    ),
    isShortest: tried <= mostTried,
  };
}

function together(taken: Cheapest['taken']): WayToClosing['needs'] {
  const found = new Map<string, { readonly need: EntryNeed; readonly linkIds: string[] }>();
  for (const { linkId, way } of taken)
    for (const need of way.needs) {
      const known = found.get(needKey(need));
      if (known) known.linkIds.push(linkId);
      else found.set(needKey(need), { need, linkIds: [linkId] });
    }
  return [...found.values()].sort((left, right) => right.linkIds.length - left.linkIds.length);
}
