import * as z from 'zod';
import { auditExport, auditPage, auditQuery, trailReport } from '../audit.js';
import { at } from './addresses.js';
import { nothing, route } from './route.js';

/** Who did what, and whether that is still as it was written. */
export const auditRoutes = {
  audit: route(at.audit, {
    summary: 'Who did what and when, the newest first, a page at a time',
    role: 'engineer',
    query: auditQuery,
    answer: auditPage,
  }),
  exportAudit: route(at.exportAudit, {
    summary: 'All rows of the audit trail that fit: as CSV, as JSON lines, or as lines in the Common Event Format',
    role: 'engineer',
    query: auditExport,
    answer: z.string(),
  }),
  verifyAudit: route(at.verifyAudit, {
    summary: 'Recomputes the chain of the audit trail, and compares it with what was sealed',
    role: 'engineer',
    body: nothing,
    answer: trailReport,
  }),
};
