import type { RuleEdit } from '@loyal-hinge/core';
import { routes } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { answerText } from '../http/serve.js';
import { parsedText } from '../http/parsed.js';
import { notFound } from '../http/problems.js';
import type { SentBody } from '../http/serve.js';
import { passageDocumentOf, takePassage } from './document.js';
import { importRulesOf } from './keep-rules.js';
import { findFirewall } from './store.js';
import { conduitWidthsOf, firewallViewOf, passageViewOf, turnsOf } from './views.js';

/** What workers do for passage: rule sets are large, and all links are judged by them. */
export const passageJobs = {
  passageView: (db: Database) => passageViewOf(db),
  conduitWidths: (db: Database) => conduitWidthsOf(db),
  firewallView: (db: Database, { firewallId }: { readonly firewallId: string }) => firewallViewOf(db, firewallId),
  rulesWhatIf: (
    db: Database,
    { firewallId, edits }: { readonly firewallId: string; readonly edits: readonly RuleEdit[] },
  ) => turnsOf(db, firewallId, edits),
  importRules: async (db: Database, { firewallId, text, actor }: SentBody & { readonly firewallId: string }) => {
    if (!(await findFirewall(db, firewallId))) throw notFound('firewall', firewallId);
    const file = parsedText(routes.importRules.body, text);
    await db.transaction((tx) => importRulesOf(tx, firewallId, actor, file));
    return firewallViewOf(db, firewallId);
  },
  exportPassage: async (db: Database) => answerText('exportPassage', await passageDocumentOf(db)),
  importPassage: (db: Database, { text, actor }: SentBody) => {
    const document = parsedText(routes.importPassage.body, text);
    return db.transaction((tx) => takePassage(tx, document, actor));
  },
} as const;
export type PassageJobs = typeof passageJobs;
