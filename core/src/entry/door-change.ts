import type { Door } from './doors.js';
import { doorKey } from './doors.js';
import { sayDoor } from './ways-in.js';

/** Doors of a server that are to be opened or closed. No standard call sets them: a person does it at the server. */
export interface DoorChange {
  readonly kind: 'open-doors' | 'close-doors';
  readonly serverId: string;
  readonly doors: readonly Door[];
}

/** The change that takes it back. */
export const undoOfDoors = (change: DoorChange): DoorChange => ({
  ...change,
  kind: change.kind === 'open-doors' ? 'close-doors' : 'open-doors',
});

/** Whether a server that offers these doors is as the change wants it. */
export function doorsHold({ kind, doors }: DoorChange, offered: readonly Door[]): boolean {
  const there = new Set(offered.map(doorKey));
  return doors.every((door) => there.has(doorKey(door)) === (kind === 'open-doors'));
}

/** A change of doors in words. */
export function sayDoorChange({ kind, doors }: DoorChange, server: string) {
  const names = doors.map(sayDoor).join('; ');
  const [verb, before, after, back] =
    kind === 'open-doors'
      ? (['Open', 'closed', 'open', 'Close'] as const)
      : (['Close', 'open', 'closed', 'Open'] as const);
  return {
    title: `${verb} on ${server}: ${names}`,
    target: server,
    before: `${before}: ${names}`,
    after: `${after}: ${names}`,
    undo: `${back} them again at the server.`,
  };
}
