import { z } from 'zod';
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

export const trustPlan = z.object({
  strategy: z.enum(['direct', 'authority']),
  changes: z.array(plannedChange),
  /** Names of the applications that must be restarted. */
  restarts: z.array(z.string()),
  atRenewal: z.object({ most: z.int(), mean: z.number() }),
  remainder: z.array(z.object({ linkId: z.string(), link: z.string(), says: z.string() })),
  /** Links that turn by it, judged on paper; certificates that are still to be signed are taken as promised. */
  turns: z.array(linkTurn),
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
