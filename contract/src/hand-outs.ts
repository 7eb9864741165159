import * as z from 'zod';
import { mostTimelineDays } from './rounds.js';

export const handOutSubjects = ['plant', 'zone', 'link', 'case'] as const;
export const handOutReaders = ['manager', 'technician', 'auditor'] as const;
export const handOutForms = ['html', 'pdf', 'csv'] as const;

/** A report: what it is about, who is to read it, and as what it is written. */
export const handOutQuery = z.object({
  about: z.enum(handOutSubjects),
  /** Of the zone, the link or the case; of the plant nothing. */
  id: z.string().max(200).default(''),
  reader: z.enum(handOutReaders),
  form: z.enum(handOutForms),
  /** How far back it looks. */
  days: z.coerce.number().int().min(1, 'At least one day.').max(mostTimelineDays, 'At most a year.').default(7),
});
export type HandOutQuery = z.infer<typeof handOutQuery>;
