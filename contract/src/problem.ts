import * as z from 'zod';

/** Problem details (RFC 9457), with a code for programs and a sentence on what to do for people. */
export const problem = z.object({
  type: z.string(),
  title: z.string(),
  status: z.int(),
  code: z.string(),
  /** What happened, and what was kept. */
  detail: z.string(),
  /** What to do now. */
  remedy: z.string(),
  /** Where in the body or query something is wrong. */
  faults: z.array(z.object({ place: z.string(), says: z.string() })).optional(),
});
export type Problem = z.infer<typeof problem>;
