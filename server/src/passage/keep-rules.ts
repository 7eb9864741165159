import { readRuleSet } from '@loyal-hinge/core';
import { appendAudit } from '../audit/trail.js';
import type { Queryable } from '../database/database.js';
import { invalid } from '../http/problems.js';
import { addRules } from './store.js';

/** Rules as a firewall wrote them. */
export interface TakenRules {
  /** Of the file. */
  readonly name: string;
  readonly text: string;
  /** Absent: now. */
  readonly takenAt?: string;
}

/** Keeps rules as a firewall wrote them; what can’t be read as such is refused. */
export async function importRulesOf(
  tx: Queryable,
  firewallId: string,
  actor: string,
  { name, text, takenAt }: TakenRules,
): Promise<void> {
  const read = readRuleSet(text, 'auto');
  if (!read.ok) throw invalid(`${read.line === 0 ? '' : `Line ${read.line}: `}${read.says}`);
  const { format, chains } = read.ruleSet;
  const rules = [...chains.values()].reduce(
    (sum, chain) => sum + chain.rules.filter((rule) => !rule.isImplied).length,
    0,
  );
  const id = await addRules(tx, {
    firewallId,
    takenBy: actor,
    file: name,
    format,
    rules,
    text,
    ...(takenAt ? { takenAt } : {}),
  });
  await appendAudit(tx, {
    actor,
    action: 'firewall rules imported',
    subject: firewallId,
    details: { rules: id, file: name },
  });
}
