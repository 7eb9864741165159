import { once } from 'node:events';
import type { Response, Router } from 'express';
import { auditExport } from '@loyal-hinge/contract';
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
import { trailWritings } from './written-trail.js';
import type { TrailForm } from './written-trail.js';

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
    const { form, ...wish } = auditExport.parse(query);
    await writeTrail(response, db, wish, form, signal);
    return '';
  });
  serve(router, findActor, 'verifyAudit', async ({ signal }) => {
    const heads = await sealedHeads(db, files);
    const asked = [...new Set(heads.map(({ sequence }) => sequence))];
    return trailReport(await heavy.run('verifyAudit', { asked }, signal), heads, maker);
  });
}

/** A page at a time, as fast as it is taken: the trail may be longer than the memory. */
async function writeTrail(
  response: Response,
  db: Database,
  wish: AuditWish,
  form: TrailForm,
  signal: AbortSignal,
): Promise<void> {
  const { file, type, head, end, line } = trailWritings[form];
  response.attachment(file).type(type);
  if (head !== null) response.write(`${head}${end}`);
  for await (const rows of allAudit(db, wish)) {
    if (signal.aborted) return;
    const lines = rows.map((row) => `${line(row)}${end}`).join('');
    if (!response.write(lines)) await once(response, 'drain', { signal }).catch(() => undefined);
  }
  response.end();
}
