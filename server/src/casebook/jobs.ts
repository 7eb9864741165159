import { routes } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database } from '../database/database.js';
import type { Note } from '../heavy/jobs.js';
import { parsedText } from '../http/parsed.js';
import { conversationViewOf, messageBytesOf } from './conversation-view.js';
import { readEvidence } from './read-evidence.js';
import { ruleFor } from './reading-rules.js';
import { addTold, changeEvidence, findEvidence, forgetTold, sameEvidence } from './store.js';
import { caseViewOf, casebookViewOf, namedCase } from './views.js';

/** What workers do for the casebook: files are large, and cases are made of many attempts. */
export const casebookJobs = {
  casebookView: (db: Database, { mayKnowNames }: { readonly mayKnowNames: boolean }) =>
    casebookViewOf(db, mayKnowNames),
  caseView: (db: Database, { caseId, mayKnowNames }: { readonly caseId: string; readonly mayKnowNames: boolean }) =>
    caseViewOf(db, caseId, mayKnowNames),
  namedCase: (db: Database, { caseId }: { readonly caseId: string }) => namedCase(db, caseId),
  conversation: (
    db: Database,
    wanted: { readonly evidenceId: string; readonly path: string; readonly position: number },
  ) => conversationViewOf(db, wanted),
  messageBytes: (
    _: Database,
    wanted: { readonly evidenceId: string; readonly path: string; readonly position: number; readonly index: number },
  ) => messageBytesOf(wanted),
  /** A part of a file as it was sent, taken apart. */
  evidencePart: (_: Database, { text }: { readonly text: string }) => {
    const { from, content } = parsedText(routes.sendEvidence.body, text);
    return Promise.resolve({ from, content: new Uint8Array(Buffer.from(content, 'base64')) });
  },
  readEvidence: async (
    db: Database,
    { evidenceId, path }: { readonly evidenceId: string; readonly path: string },
    note: Note,
  ) => {
    const row = await findEvidence(db, evidenceId);
    if (!row) return;
    /* A reading that comes to nothing leaves no attempt behind. */
    await db.transaction(async (tx) => {
      await forgetTold(tx, evidenceId);
      const rule = await ruleFor(tx, row.ruleId);
      const told = await readEvidence(path, row, rule, (some) => addTold(tx, row, some), note);
      const same = await sameEvidence(tx, evidenceId, told.sha256);
      if (same) {
        await forgetTold(tx, evidenceId);
        const fault = `The same file is here already: “${same.name}”, brought by ${same.broughtBy}.`;
        return changeEvidence(tx, evidenceId, { state: 'refused', fault });
      }
      const isRefused = told.items === 0;
      await changeEvidence(tx, evidenceId, {
        ...told,
        sha256: isRefused ? null : told.sha256,
        state: isRefused ? 'refused' : 'read',
      });
      const details = { name: row.name, sha256: told.sha256, items: told.items, attempts: told.attempts };
      await appendAudit(tx, { actor: row.broughtBy, action: 'evidence read', subject: evidenceId, details });
    });
  },
} as const;
export type CasebookJobs = typeof casebookJobs;
