import { offsetAt, offsetNow, zoneOf } from '../log/text/times.js';

const minuteMs = 60_000;
const dayMinutes = 1440;
const dayMs = dayMinutes * minuteMs;

/** How often rounds may begin, in minutes: each divides a day, so that they begin at the same times every day. */
export const roundIntervals = [5, 10, 15, 30, 60, 120, 240, 360, 480, 720, 1440] as const;
export type RoundInterval = (typeof roundIntervals)[number];

/** Hours in which nothing begins. */
export interface QuietHours {
  /** Days of the week on which they begin: 1 is Monday, 7 Sunday (ISO 8601). */
  readonly days: readonly number[];
  /** Time of day, `06:00`. */
  readonly from: string;
  /** Time of day; where it is not later than `from`, that of the next day. */
  readonly to: string;
}

/** When rounds begin. */
export interface RoundTimes {
  readonly everyMinutes: RoundInterval;
  /** A time of day at which one begins, `00:00`; the others follow from it. */
  readonly at: string;
  readonly quiet: QuietHours | null;
  /** Whose clock all this is: `+01:00`, or a name such as `Europe/Berlin`. */
  readonly zone: string;
}

/** How a round that is under way goes. */
export interface UnderWay {
  readonly perMinute: number;
  /** Milliseconds since 1970. */
  readonly begunAt: number;
  /** Links that were asked for already. */
  readonly asked: number;
}

/**
 * How many links may be asked for now, so that the rate of a round is kept. One that was held up does not catch up all at
 * once.
 * @param everyMs how often this is asked
 */
export function askNow({ perMinute, begunAt, asked }: UnderWay, now: number, everyMs: number): number {
  const due = Math.floor((perMinute * (now - begunAt)) / minuteMs) + 1 - asked;
  return Math.max(0, Math.min(due, Math.ceil((perMinute * everyMs) / minuteMs)));
}

/** Minutes since midnight. */
const minutesOf = (time: string): number => Number(time.slice(0, 2)) * 60 + Number(time.slice(3, 5));

/**
 * When the next round begins.
 * @param after milliseconds since 1970
 * @returns null: never, since all its times are quiet; or the zone is unknown
 */
export function nextRound({ everyMinutes, at, quiet, zone: named }: RoundTimes, after: number): number | null {
  const zone = zoneOf(named);
  if (zone === null) return null;
  const localNow = after + offsetNow(after, zone) * minuteMs;
  const today = Math.floor(localNow / dayMs) * dayMs;
  const first = minutesOf(at) % everyMinutes;
  /* Quiet hours come back every week; a day more, since clocks are put back. */
  for (let day = -1; day <= 8; day += 1)
    for (let minutes = first; minutes < dayMinutes; minutes += everyMinutes) {
      const local = today + day * dayMs + minutes * minuteMs;
      const begins = local - offsetAt(local, zone) * minuteMs;
      if (begins > after && !isQuiet(local, quiet)) return begins;
    }
  return null;
}

/** Whether a moment lies in quiet hours. */
export function isQuietAt(at: number, quiet: QuietHours | null, named: string): boolean {
  const zone = zoneOf(named);
  return zone !== null && isQuiet(at + offsetNow(at, zone) * minuteMs, quiet);
}

/** @param local milliseconds since 1970 as if the local time were in UTC */
function isQuiet(local: number, quiet: QuietHours | null): boolean {
  if (!quiet) return false;
  const [from, to] = [minutesOf(quiet.from), minutesOf(quiet.to)];
  const minute = Math.floor((((local % dayMs) + dayMs) % dayMs) / minuteMs);
  const begunToday = minute >= from && (from < to ? minute < to : true);
  const begunYesterday = from >= to && minute < to;
  return (
    (begunToday && quiet.days.includes(weekdayOf(local))) ||
    (begunYesterday && quiet.days.includes(weekdayOf(local - dayMs)))
  );
}

const weekdayOf = (local: number): number => new Date(local).getUTCDay() || 7;
