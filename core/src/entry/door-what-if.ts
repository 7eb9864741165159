import { doorKey, passageOf } from './doors.js';
import type { Door, Passage, ServerDoors } from './doors.js';
import { endpointsUnder } from './door-rules.js';
import type { DoorRule } from './door-rules.js';
import { waysIn } from './ways-in.js';
import type { WayIn } from './ways-in.js';

/** What becomes of a link when doors are closed or opened. */
export interface DoorTurn {
  readonly serverId: string;
  readonly linkId: string;
  readonly name: string;
  readonly turn: 'moves' | 'cut off' | 'gets in';
  readonly before: Door | null;
  readonly after: Door | null;
  /** Why it is cut off; null: it is not. */
  readonly why: string | null;
  /** The cheapest way by which it could get in by a better door then; null: it is not cut off, or there is none. */
  readonly way: WayIn | null;
}

/** The links that would take another door, be cut off or get in; those that stay as they are, are not told. */
export function doorWhatIf(servers: readonly ServerDoors[], rules: readonly DoorRule[]): readonly DoorTurn[] {
  return servers.flatMap((server) => {
    const endpoints = endpointsUnder(server.id, server.endpoints, rules);
    return endpoints === server.endpoints ? [] : turnsAt(server, endpoints);
  });
}

function turnsAt(server: ServerDoors, endpoints: ServerDoors['endpoints']): readonly DoorTurn[] {
  const turns: DoorTurn[] = [];
  for (const link of server.links) {
    const [before, after] = [passageOf(server.endpoints, link), passageOf(endpoints, link)];
    const turn = turnBetween(before, after);
    if (turn === null) continue;
    const way = turn === 'cut off' ? (waysIn({ id: server.id, endpoints }, link, server.endpoints)[0] ?? null) : null;
    const { id: linkId, name } = link;
    const why = turn === 'cut off' ? after.fault : null;
    turns.push({ serverId: server.id, linkId, name, turn, before: letInBy(before), after: letInBy(after), why, way });
  }
  return turns;
}

function turnBetween(before: Passage, after: Passage): DoorTurn['turn'] | null {
  if (before.fault === null && after.fault !== null) return 'cut off';
  if (before.fault !== null && after.fault === null) return 'gets in';
  return keyOf(before) === keyOf(after) ? null : 'moves';
}

const letInBy = ({ door, fault }: Passage): Door | null => (fault === null ? door : null);

const keyOf = (passage: Passage): string | null => {
  const door = letInBy(passage);
  return door && doorKey(door);
};
