import * as z from 'zod';

/** What the search knows, in the order in which it is shown. */
export const searched = ['machine', 'application', 'link', 'certificate', 'work order'] as const;

export const searchHit = z.object({
  kind: z.enum(searched),
  id: z.string(),
  name: z.string(),
  /** What tells it from others of its name: a zone, a machine, a state, a thumbprint. */
  about: z.string(),
});
export type SearchHit = z.infer<typeof searchHit>;
