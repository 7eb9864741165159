import { doorKey, doorsOf, isWeakDoor, passageOf } from './doors.js';
import type { Door, DoorWeakness, LinkAtDoors, OfferedDoor, ServerDoors } from './doors.js';
import { endpointsUnder } from './door-rules.js';
import type { DoorRule } from './door-rules.js';
import type { EntryFloor } from './floor.js';

/** A weak door that can't be closed yet, and whom that would cut off. */
export interface KeptDoor {
  readonly serverId: string;
  readonly door: OfferedDoor;
  readonly linkIds: readonly string[];
}

export interface Closing {
  /** The weak doors that can be closed now without cutting a link off. */
  readonly close: readonly { readonly serverId: string; readonly door: OfferedDoor }[];
  readonly keep: readonly KeptDoor[];
}

const gravity: Readonly<Record<DoorWeakness, number>> = {
  'password in clear': 32,
  'token in clear': 32,
  'no security': 16,
  'deprecated policy': 8,
  'unknown policy': 8,
  'short key': 4,
  'below the floor': 4,
  anonymous: 2,
  'signed only': 1,
};
/** How weak a door is, to compare doors by; signed only counts as nothing much. */
export const weightOfDoor = ({ weaknesses }: Pick<OfferedDoor, 'weaknesses'>): number =>
  weaknesses.reduce((sum, weakness) => sum + gravity[weakness], 0);

/**
 * The largest set of weak doors that can be closed today without cutting anybody off: of each server as few as possible
 * are kept, and of two that would do the less weak one. Links that don't get in now are no reason to keep a door.
 */
export function largestClosing(servers: readonly ServerDoors[], floor: EntryFloor): Closing {
  const close: Closing['close'][number][] = [];
  const keep: KeptDoor[] = [];
  for (const server of servers) {
    const weak = doorsOf(server.endpoints, floor).filter(isWeakDoor);
    if (weak.length === 0) continue;
    const waiting = demandsAt(server, weak);
    const kept = fewestThatServe(
      weak,
      waiting.map(({ by }) => by),
    );
    weak.forEach((door, index) => {
      if (!kept.has(index)) close.push({ serverId: server.id, door });
    });
    for (const index of kept) {
      const door = weak[index];
      if (!door) continue;
      const linkIds = waiting.filter(({ by }) => by.includes(index)).map(({ linkId }) => linkId);
      keep.push({ serverId: server.id, door, linkIds });
    }
  }
  return { close, keep };
}

interface Demand {
  readonly linkId: string;
  /** Positions of the weak doors of which it needs one. */
  readonly by: readonly number[];
}

/** The links that get in, and by nothing but weak doors. */
export function demandsAt(server: ServerDoors, weak: readonly OfferedDoor[]): readonly Demand[] {
  const closed = endpointsUnder(server.id, server.endpoints, weak.map(closing));
  const demands: Demand[] = [];
  for (const link of server.links) {
    if (passageOf(server.endpoints, link).fault !== null || passageOf(closed, link).fault === null) continue;
    const by = weak.flatMap((door, index) => (getsInBy(server, weak, door, link) ? [index] : []));
    demands.push({ linkId: link.id, by });
  }
  return demands;
}

/** Whether a link gets in when of all weak doors this one alone stays open. */
function getsInBy(server: ServerDoors, weak: readonly OfferedDoor[], door: Door, link: LinkAtDoors): boolean {
  const others = weak.filter((other) => doorKey(other) !== doorKey(door));
  return passageOf(endpointsUnder(server.id, server.endpoints, others.map(closing)), link).fault === null;
}

const closing = (door: Door): DoorRule => ({
  serverId: null,
  policy: door.policy,
  mode: door.mode,
  token: door.token,
  to: 'closed',
});

/**
 * The fewest doors of which every demand has one; of as many, the least weak together. Tried out wholly: a server has few
 * doors, and demands that are met by more than another one asks no more.
 */
function fewestThatServe(doors: readonly OfferedDoor[], demands: readonly (readonly number[])[]): ReadonlySet<number> {
  const asked = [...new Map(demands.map((by) => [by.join(' '), by])).values()].filter((by) => by.length > 0);
  const strict = asked.filter(
    (by) => !asked.some((other) => other.length < by.length && other.every((index) => by.includes(index))),
  );
  const weights = doors.map(weightOfDoor);
  const cost = (kept: readonly number[]): number => kept.reduce((sum, index) => sum + 1_000 + (weights[index] ?? 0), 0);
  let best: readonly number[] | null = null;
  const serve = (kept: readonly number[]): void => {
    if (best && cost(kept) >= cost(best)) return;
    const open = strict.find((by) => !by.some((index) => kept.includes(index)));
    if (!open) {
      best = kept;
      return;
    }
    for (const index of open) serve([...kept, index]);
  };
  serve([]);
  return new Set(best ?? []);
}
