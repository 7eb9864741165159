import * as z from 'zod';
import type { LinkTurn } from '@loyal-hinge/core';
import { trustChange } from '../orders.js';

export const linkTurn = z.object({
  linkId: z.string(),
  name: z.string(),
  before: z.enum(['trusted', 'refused', 'unknown']),
  after: z.enum(['trusted', 'refused', 'unknown']),
  why: z.string(),
}) satisfies z.ZodType<LinkTurn>;

export const plannedChange = z.object({
  change: trustChange,
  title: z.string(),
  target: z.string(),
  why: z.string(),
  linkIds: z.array(z.string()),
});

export const strategy = z.enum(['direct', 'authority']);

export const trustPlan = z.object({
  strategy,
  /** How many changes it has, and how many of them fit the words that were asked for. */
  count: z.int(),
  fitting: z.int(),
  /** The first of those that fit, in the order in which they are made. */
  changes: z.array(plannedChange),
  /** How many applications must be restarted, and the names of the first. */
  restartCount: z.int(),
  restarts: z.array(z.string()),
  atRenewal: z.object({ most: z.int(), mean: z.number() }),
  /** How many needs it leaves as they are, and the first of them. */
  remainderCount: z.int(),
  remainder: z.array(z.object({ linkId: z.string(), link: z.string(), says: z.string() })),
  /** How many links turn by it, judged on paper; certificates that are still to be signed are taken as promised. */
  turnCount: z.int(),
  /** How many links that are refused now it mends, those with new certificates among them. */
  mends: z.int(),
});
export type TrustPlanView = z.infer<typeof trustPlan>;

export const trustPlans = z.object({
  /** How many links the plans are for. */
  links: z.int(),
  direct: trustPlan,
  /** null: the plant has no authority yet. */
  authority: trustPlan.nullable(),
  /** Lists that were never read: the plans can’t speak of them. */
  unread: z.array(z.string()),
});
export type TrustPlans = z.infer<typeof trustPlans>;
