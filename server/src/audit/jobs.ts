import type { Database } from '../database/database.js';
import { verifyAudit } from './trail.js';

/** What workers do for the audit trail. */
export const auditJobs = {
  verifyAudit: (db: Database, { asked }: { readonly asked: readonly number[] }) => verifyAudit(db, asked),
} as const;
export type AuditJobs = typeof auditJobs;
