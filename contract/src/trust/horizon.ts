import * as z from 'zod';
import type { Ending, RenewalGroup } from '@loyal-hinge/core';

export const ending = z.object({
  id: z.string(),
  kind: z.enum(['application', 'authority', 'crl', 'waiver']),
  subject: z.string(),
  begins: z.number(),
  ends: z.number(),
  applicationIds: z.array(z.string()),
  linkIds: z.array(z.string()),
}) satisfies z.ZodType<Ending>;

export const horizon = z.object({
  at: z.number(),
  endings: z.array(ending.extend({ name: z.string(), applications: z.array(z.string()), links: z.array(z.string()) })),
  groups: z.array(
    z.object({ endingIds: z.array(z.string()), by: z.number(), says: z.string() }) satisfies z.ZodType<RenewalGroup>,
  ),
});
export type HorizonView = z.infer<typeof horizon>;
