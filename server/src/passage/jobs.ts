import { readRuleSet } from '@loyal-hinge/core';
import type { RuleEdit } from '@loyal-hinge/core';
import { routes } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database, Queryable } from '../database/database.js';
import { parsedText } from '../http/parsed.js';
import { invalid, notFound } from '../http/problems.js';
import type { SentBody } from '../http/serve.js';
import { addRules, findFirewall } from './store.js';
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
} as const;
export type PassageJobs = typeof passageJobs;

/** Keeps rules as a firewall wrote them; what can’t be read as such is refused. */
export async function importRulesOf(
  tx: Queryable,
  firewallId: string,
  actor: string,
  { name, text }: { readonly name: string; readonly text: string },
): Promise<void> {
  const read = readRuleSet(text, 'auto');
  if (!read.ok) throw invalid(`${read.line === 0 ? '' : `Line ${read.line}: `}${read.says}`);
  const { format, chains } = read.ruleSet;
  const rules = [...chains.values()].reduce(
    (sum, chain) => sum + chain.rules.filter((rule) => !rule.isImplied).length,
    0,
  );
  const id = await addRules(tx, { firewallId, takenBy: actor, file: name, format, rules, text });
  await appendAudit(tx, {
    actor,
    action: 'firewall rules imported',
    subject: firewallId,
    details: { rules: id, file: name },
  });
}
