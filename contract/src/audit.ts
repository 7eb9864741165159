import * as z from 'zod';

/** A row of the audit trail. */
export const auditEntry = z.object({
  sequence: z.int(),
  at: z.string(),
  actor: z.string(),
  action: z.string(),
  subject: z.string(),
  details: z.record(z.string(), z.unknown()),
});
export type AuditEntry = z.infer<typeof auditEntry>;

const words = z.string().max(200).optional();
const moment = z
  .string()
  .regex(/^\d{4}-\d\d-\d\d(T[\d:.]{1,12}Z)?$/, 'It must be a day such as 2026-03-01, or a moment in UTC.')
  .optional();

/** Which rows of the trail are wanted; each part left out means all. */
export const auditQuery = z.object({
  subject: words,
  actor: words,
  action: words,
  /** Stands in any part of a row. */
  find: words,
  from: moment,
  to: moment,
  /** Only rows before the one of this number. */
  before: z
    .string()
    .regex(/^\d{1,15}$/, 'It must be the number of a row.')
    .optional(),
});
export type AuditQuery = z.infer<typeof auditQuery>;

/** How the trail is written out: a table, or for other systems. */
export const auditForms = ['csv', 'json-lines', 'cef'] as const;
export const auditExport = auditQuery.extend({ form: z.enum(auditForms).default('csv') });

export const auditPage = z.object({
  entries: z.array(auditEntry),
  /** The number of the row before which the next page begins; null: this is the last. */
  next: z.int().nullable(),
  /** For choosing: everybody and everything that the trail speaks of. */
  actors: z.array(z.string()),
  actions: z.array(z.string()),
});
export type AuditPage = z.infer<typeof auditPage>;

/** Whether the trail is as it was written. */
export const trailReport = z.object({
  rows: z.int(),
  isWhole: z.boolean(),
  faults: z.array(z.string()),
  /** The newest row that is sealed; null: no seal was looked at, or none is there. */
  sealed: z.object({ upTo: z.int(), at: z.string() }).nullable(),
  /** How many seals fitted. */
  seals: z.int(),
});
export type TrailReport = z.infer<typeof trailReport>;
