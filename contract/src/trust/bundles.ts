import * as z from 'zod';

/** A file as it was dropped, in Base64. */
export const droppedFile = z.object({ name: z.string().max(300), base64: z.base64().max(28_000_000) });

export const reportedBundle = z.object({
  lists: z.array(z.object({ list: z.string(), count: z.int() })),
  passedOver: z.array(z.object({ path: z.string(), says: z.string() })),
});
export type ReportedBundle = z.infer<typeof reportedBundle>;
