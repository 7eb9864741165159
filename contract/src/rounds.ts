import * as z from 'zod';
import { linkKindIds } from '@loyal-hinge/core';
import { nextRound, roundIntervals, zoneOf } from '@loyal-hinge/core/casebook';
import type { RoundInterval } from '@loyal-hinge/core/casebook';
import { linkState, stepId } from './links.js';
import { id } from './plant.js';

const instant = z.string();
const timeOfDay = z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/, 'Write a time of day such as 06:00.');
export const timeZone = z
  .string()
  .max(60)
  .refine((text) => zoneOf(text) !== null, 'This is no time zone: write +01:00, or a name such as Europe/Berlin.');

export const quietHours = z.object({
  /** 1 is Monday, 7 Sunday. */
  days: z.array(z.int().min(1).max(7)).min(1, 'Choose at least one day.').max(7),
  from: timeOfDay,
  to: timeOfDay,
});
export type QuietHoursWish = z.infer<typeof quietHours>;

/** Which links a round checks. */
export const roundScope = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('plant') }),
  z.object({ kind: z.literal('zone'), zoneId: id }),
  z.object({ kind: z.literal('links'), linkIds: z.array(id).min(1, 'Choose at least one link.').max(500) }),
]);
export type RoundScope = z.infer<typeof roundScope>;

const neverRuns = 'All times at which it would begin are quiet: shorten the quiet hours.';

/** A round as it is wanted. */
export const roundWish = z
  .object({
    name: z.string().trim().min(1, 'A round needs a name.').max(80),
    scope: roundScope,
    everyMinutes: z
      .int()
      .refine((minutes): minutes is RoundInterval => (roundIntervals as readonly number[]).includes(minutes), {
        error: 'Choose one of the intervals.',
      }),
    /** A time of day at which one begins. */
    at: timeOfDay,
    quiet: quietHours.nullable(),
    zone: timeZone,
    /** So many links are asked for in a minute, at most. */
    perMinute: z.int().min(1, 'At least one link a minute.').max(600, 'At most 600 links a minute.'),
    isPaused: z.boolean(),
  })
  .superRefine(({ everyMinutes, at, quiet, zone }, context) => {
    if (!quiet || nextRound({ everyMinutes, at, quiet, zone }, 0) !== null) return;
    context.addIssue({ code: 'custom', path: ['quiet', 'to'], message: neverRuns });
  });
export type RoundWish = z.infer<typeof roundWish>;

export const roundRun = z.object({
  begunAt: instant,
  /** null: links are still waiting to be asked for. */
  endedAt: instant.nullable(),
  links: z.int(),
  /** Links that were not asked for yet. */
  pending: z.int(),
  askedBy: z.string(),
});

export const roundRow = z.object({
  id: z.string(),
  name: z.string(),
  scope: roundScope,
  everyMinutes: z.int(),
  at: z.string(),
  quiet: quietHours.nullable(),
  zone: z.string(),
  perMinute: z.int(),
  isPaused: z.boolean(),
  /** Links that it checks, as the plant is now. */
  links: z.int(),
  nextAt: instant.nullable(),
  lastRun: roundRun.nullable(),
});
export type RoundRow = z.infer<typeof roundRow>;

/** A link began to be seen otherwise than before. */
export const linkChange = z.object({
  id: z.int(),
  linkId: z.string(),
  linkName: z.string(),
  at: instant,
  /** null: it was never seen before. */
  from: linkState.nullable(),
  to: linkState,
  step: stepId.nullable(),
  says: z.string(),
});
export type LinkChange = z.infer<typeof linkChange>;

export const roundsView = z.object({
  rounds: z.array(roundRow),
  /** What changed, the newest first. */
  changes: z.array(linkChange),
  /** What a round can be of. */
  zones: z.array(z.object({ id: z.string(), name: z.string() })),
  links: z.array(z.object({ id: z.string(), name: z.string() })),
});
export type RoundsView = z.infer<typeof roundsView>;

export const mostTimelineDays = 366;
/** Which part of the timeline is wanted. */
export const timelineQuery = z.object({
  days: z.coerce.number().int().min(1).max(mostTimelineDays).default(7),
  find: z.string().max(200).default(''),
});

export const availability = z.object({
  soundMs: z.number(),
  strainedMs: z.number(),
  partedMs: z.number(),
  knownMs: z.number(),
  /** From 0 to 1, of the time in which it was known; null: it never was. */
  usable: z.number().nullable(),
  known: z.number(),
  falls: z.int(),
});

/** Milliseconds of links by state, from a moment to that of the next one. */
const timeShare = z.object({ from: z.number(), ms: z.record(linkState, z.number()) });

export const timelineRow = z.object({
  linkId: z.string(),
  name: z.string(),
  kind: z.enum(linkKindIds),
  state: linkState,
  availability,
  /** Each from where the last one ended; times are milliseconds since 1970. */
  stretches: z.array(z.object({ state: linkState, to: z.number() })),
  /** Months by the clock of the plant’s rounds, the first and the last in part; none where the period is short. */
  months: z.array(timeShare),
});
export type TimelineRow = z.infer<typeof timelineRow>;

export const timelineView = z.object({
  from: z.number(),
  to: z.number(),
  /** Links that fit. */
  links: z.int(),
  /** Those that could be used least, and after them the others by name. */
  rows: z.array(timelineRow),
  /** Of all links that fit together. */
  availability,
  /** Days of the plant, by the clock of its rounds: milliseconds of all links that fit, by state. */
  days: z.array(timeShare),
});
export type TimelineView = z.infer<typeof timelineView>;
