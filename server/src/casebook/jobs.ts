import type { Attempt } from '@loyal-hinge/core/casebook';
import { routes } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database } from '../database/database.js';
import { parsedText } from '../http/parsed.js';
import { readEvidence } from './read-evidence.js';
import { changeEvidence, findEvidence, replaceAttempts, sameEvidence } from './store.js';
import { caseViewOf, casebookViewOf } from './views.js';

/** What workers do for the casebook: files are large, and cases are made of many attempts. */
export const casebookJobs = {
  casebookView: (db: Database) => casebookViewOf(db),
  caseView: (db: Database, { caseId }: { readonly caseId: string }) => caseViewOf(db, caseId),
  /** A part of a file as it was sent, taken apart. */
  evidencePart: (_: Database, { text }: { readonly text: string }) => {
    const { from, content } = parsedText(routes.sendEvidence.body, text);
    return Promise.resolve({ from, content: new Uint8Array(Buffer.from(content, 'base64')) });
  },
  readEvidence: async (db: Database, { evidenceId, path }: { readonly evidenceId: string; readonly path: string }) => {
    const row = await findEvidence(db, evidenceId);
    if (!row) return;
    const { attempts, sha256, ...told } = await readEvidence(path, row);
    const same = await sameEvidence(db, evidenceId, sha256);
    if (same) {
      const fault = `The same file is here already: “${same.name}”, brought by ${same.broughtBy}.`;
      return changeEvidence(db, evidenceId, { state: 'refused', fault });
    }
    const isRefused = told.items === 0;
    await db.transaction(async (tx) => {
      await replaceAttempts(tx, evidenceId, attempts);
      await changeEvidence(tx, evidenceId, {
        ...told,
        ...spanOfAttempts(attempts),
        sha256: isRefused ? null : sha256,
        state: isRefused ? 'refused' : 'read',
        fault: told.fault ?? null,
        attempts: attempts.length,
      });
      const details = { name: row.name, sha256, items: told.items, attempts: attempts.length };
      await appendAudit(tx, { actor: row.broughtBy, action: 'evidence read', subject: evidenceId, details });
    });
  },
} as const;
export type CasebookJobs = typeof casebookJobs;

function spanOfAttempts(attempts: readonly Attempt[]): { firstAt: string | null; lastAt: string | null } {
  let [first, last] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
  for (const { start, end } of attempts) {
    first = Math.min(first, start);
    last = Math.max(last, end);
  }
  const iso = (at: number): string | null => (Number.isFinite(at) ? new Date(at).toISOString() : null);
  return { firstAt: iso(first), lastAt: iso(last) };
}
