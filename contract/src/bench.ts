import * as z from 'zod';

export const benchOpened = z.object({
  benchId: z.string(),
  linkId: z.string(),
  linkName: z.string(),
  security: z.string(),
  user: z.string(),
});
export type BenchOpened = z.infer<typeof benchOpened>;

export const benchNode = z.object({
  nodeId: z.string(),
  browseName: z.string(),
  displayName: z.string(),
  nodeClass: z.enum(['Object', 'Variable', 'Method', 'other']),
});
export type BenchNode = z.infer<typeof benchNode>;

export const benchValue = z.object({
  nodeId: z.string(),
  code: z.string(),
  /** Code and meaning in words. */
  status: z.string(),
  value: z.string().nullable(),
  number: z.number().nullable(),
  dataType: z.string().nullable(),
  sourceTimestamp: z.string().nullable(),
  serverTimestamp: z.string().nullable(),
});
export type BenchValue = z.infer<typeof benchValue>;

export const benchReading = benchValue.extend({
  /** Engineering unit as the server shows it; empty where it has none. */
  unit: z.string(),
  accessLevel: z.array(z.string()),
  userAccessLevel: z.array(z.string()),
});
export type BenchReading = z.infer<typeof benchReading>;

/** Values heard since the last message; at most a few messages a second. */
export const benchValues = z.object({ values: z.array(benchValue) });
