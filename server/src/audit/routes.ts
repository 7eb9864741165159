import { once } from 'node:events';
import type { Response, Router } from 'express';
import { csvLine } from '@loyal-hinge/core';
import type { Database } from '../database/database.js';
import type { Runs } from '../heavy/jobs.js';
import { serve } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import { trailReport } from './report.js';
import { sealedHeads } from './seals.js';
import type { AnchorFiles, SealMaker } from './seals.js';
import { allAudit, auditWords, newestAudit } from './trail.js';
import type { AuditWish } from './trail.js';
import type { AuditJobs } from './jobs.js';

const pageRows = 100;

export function auditRoutes(
  router: Router,
  findActor: FindActor,
  db: Database,
  heavy: Runs<AuditJobs>,
  maker: SealMaker,
  files: AnchorFiles,
): void {
  serve(router, findActor, 'audit', async ({ query }) => {
    const [rows, words] = await Promise.all([newestAudit(db, query, pageRows + 1), auditWords(db)]);
    const entries = rows.slice(0, pageRows);
    return { entries, next: rows.length > pageRows ? (entries.at(-1)?.sequence ?? null) : null, ...words };
  });
  serve(router, findActor, 'exportAudit', async ({ query, response, signal }) => {
    response.attachment('audit-trail.csv').type('text/csv');
    await writeCsv(response, db, query, signal);
    return '';
  });
  serve(router, findActor, 'verifyAudit', async ({ signal }) => {
    const heads = await sealedHeads(db, files);
    const asked = [...new Set(heads.map(({ sequence }) => sequence))];
    return trailReport(await heavy.run('verifyAudit', { asked }, signal), heads, maker);
  });
}

/** A page at a time, as fast as it is taken: the trail may be longer than the memory. */
async function writeCsv(response: Response, db: Database, wish: AuditWish, signal: AbortSignal): Promise<void> {
  response.write(`${csvLine(['number', 'at (UTC)', 'who', 'what', 'about', 'details', 'hash'])}\r\n`);
  for await (const rows of allAudit(db, wish)) {
    if (signal.aborted) return;
    const lines = rows.map(({ sequence, at, actor, action, subject, details, hash }) =>
      csvLine([String(sequence), at, actor, action, subject, JSON.stringify(details), hash]),
    );
    if (!response.write(`${lines.join('\r\n')}\r\n`)) await once(response, 'drain', { signal }).catch(() => undefined);
  }
  response.end();
}
