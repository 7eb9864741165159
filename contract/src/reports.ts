import * as z from 'zod';
import { reportKinds } from '@loyal-hinge/core';

/** What a server said of itself that happened. */
export const serverReport = z.object({
  id: z.int(),
  at: z.string(),
  kind: z.enum(reportKinds),
  outcome: z.enum(['done', 'refused', 'unknown']),
  says: z.string(),
  /** As the server calls the user; null: it does not. */
  userName: z.string().nullable(),
  /** The application of the plant whose certificate it names, or the certificate’s thumbprint; null: it names none. */
  application: z.string().nullable(),
});
export type ServerReportView = z.infer<typeof serverReport>;

/** What servers report: whether it is listened to, and what came. */
export const serverReports = z.object({
  /** null: nobody listens now. */
  listening: z
    .object({ askedBy: z.string(), since: z.string(), until: z.string(), heard: z.int(), says: z.string() })
    .nullable(),
  /** How listening ended last; null: it has not. */
  ended: z.object({ at: z.string(), says: z.string() }).nullable(),
  /** The newest first; at most 500. */
  reports: z.array(serverReport),
  total: z.int(),
  /** Of all that are kept. */
  refused: z.int(),
});
export type ServerReportsView = z.infer<typeof serverReports>;

export const listenWish = z.object({
  minutes: z.int('A whole number is needed.').min(1, 'At least a minute.').max(60, 'At most an hour.'),
});
export type ListenWish = z.infer<typeof listenWish>;
