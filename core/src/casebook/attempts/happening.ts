import type { LogEvent } from '../log/log-event.js';
import type { AttemptSource } from './attempt.js';

/** Something that was changed at a machine, and may be why others fail from then on. */
export interface Happening {
  /** Milliseconds since 1970, by the clock of its source as it was set right. */
  readonly at: number;
  /** The machine as its log calls it. */
  readonly computer: string;
  readonly says: string;
  /** Bytes from the start of the file. */
  readonly position: number;
}

/** Accounts, clock, firewall rules, services, starts: what changes how a machine answers. */
const changing = new Set([
  1074, 4616, 4722, 4723, 4724, 4725, 4738, 4740, 4767, 4946, 4947, 4948, 4950, 6005, 6006, 6008, 7000, 7023, 7024,
  7031, 7034, 7036, 7038, 7040, 7041, 7045,
]);

/** What a line of a log tells of a change. @returns null: it tells of none, or not when */
export function happeningOfEvent(event: LogEvent, { clockAheadMs }: AttemptSource): Happening | null {
  if (event.kind !== 'windows' || event.says === null || event.time === null || !changing.has(event.eventId))
    return null;
  const { computer, says, position } = event;
  return { at: Date.parse(event.time) - clockAheadMs, computer, says, position };
}
