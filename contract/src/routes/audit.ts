import { z } from 'zod';
import { auditPage, auditQuery, trailReport } from '../audit.js';
import { nothing, route } from './route.js';

/** Who did what, and whether that is still as it was written. */
export const auditRoutes = {
  audit: route({
    method: 'get',
    path: '/api/audit',
    summary: 'Who did what and when, the newest first, a page at a time',
    role: 'engineer',
    query: auditQuery,
    answer: auditPage,
  }),
  exportAudit: route({
    method: 'get',
    path: '/api/audit.csv',
    summary: 'All rows of the audit trail that fit, as CSV',
    role: 'engineer',
    query: auditQuery,
    answer: z.string(),
  }),
  verifyAudit: route({
    method: 'post',
    path: '/api/audit/verification',
    summary: 'Recomputes the chain of the audit trail, and compares it with what was sealed',
    role: 'engineer',
    body: nothing,
    answer: trailReport,
  }),
};
