import { randomUUID } from 'node:crypto';
import { asc, eq } from 'drizzle-orm';
import { compileReadingRule, tryReadingRule, zoneOf } from '@loyal-hinge/core/casebook';
import type {
  ReadingRuleRow,
  ReadingRulesFile,
  ReadingRuleWish,
  RuleTrialView,
  RuleTrialWish,
} from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database, Queryable } from '../database/database.js';
import { evidence, readingRules } from '../database/schema.js';
import { conflict, notFound } from '../http/problems.js';

const rowOf = (row: typeof readingRules.$inferSelect): ReadingRuleRow => ({
  ...row,
  changedAt: new Date(row.changedAt).toISOString(),
});

/** A rule that can be used at once; null: there is none such, or it can’t be used any more. */
export async function ruleFor(db: Queryable, id: string | null) {
  if (id === null) return null;
  const [row] = await db.select().from(readingRules).where(eq(readingRules.id, id));
  const compiled = row && compileReadingRule(row);
  return compiled?.ok
    ? { reader: compiled.rule, meaning: { machine: row?.machine ?? '', means: row?.means ?? 'failed' } }
    : null;
}
export type RuleInUse = Awaited<ReturnType<typeof ruleFor>>;

/** Rules by which lines are read that have no form that is known. */
export class ReadingRules {
  /** @param readAgain has files read again */
  constructor(
    private readonly db: Database,
    private readonly readAgain: (evidenceIds: readonly string[]) => Promise<void>,
  ) {}

  async all(): Promise<ReadingRuleRow[]> {
    return (await this.db.select().from(readingRules).orderBy(asc(readingRules.name))).map(rowOf);
  }

  async add(wish: ReadingRuleWish, actor: string): Promise<ReadingRuleRow> {
    return this.db.transaction((tx) => this.keep(tx, randomUUID(), wish, actor, 'reading rule added'));
  }

  async put(id: string, wish: ReadingRuleWish, actor: string): Promise<ReadingRuleRow> {
    await this.known(id);
    const row = await this.db.transaction((tx) => this.keep(tx, id, wish, actor, 'reading rule changed'));
    await this.readAgain(await this.readBy(id));
    return row;
  }

  /** Rules of a name that is known are changed, all or nothing. */
  async takeFile({ rules }: ReadingRulesFile, actor: string): Promise<{ added: number; changed: number }> {
    const known = new Map((await this.all()).map(({ name, id }) => [name, id]));
    const changed = rules.flatMap(({ name }) => known.get(name) ?? []);
    await this.db.transaction(async (tx) => {
      for (const wish of rules) {
        const id = known.get(wish.name);
        await this.keep(tx, id ?? randomUUID(), wish, actor, id ? 'reading rule changed' : 'reading rule added');
      }
    });
    for (const id of changed) await this.readAgain(await this.readBy(id));
    return { added: rules.length - changed.length, changed: changed.length };
  }

  async remove(id: string, actor: string): Promise<void> {
    const { name } = await this.known(id);
    const files = await this.readBy(id);
    await this.db.transaction(async (tx) => {
      await tx.delete(readingRules).where(eq(readingRules.id, id));
      await appendAudit(tx, { actor, action: 'reading rule removed', subject: id, details: { name } });
    });
    await this.readAgain(files);
  }

  attempt({ pattern, zone, sample }: RuleTrialWish): RuleTrialView {
    const { fault, lines } = tryReadingRule({ pattern }, sample, { zone: zoneOf(zone) ?? 0, latest: Date.now() });
    return { fault, lines: lines.map(({ text, parts }) => ({ text, parts: parts && { ...parts } })) };
  }

  private async known(id: string): Promise<ReadingRuleRow> {
    const [row] = await this.db.select().from(readingRules).where(eq(readingRules.id, id));
    if (!row) throw notFound('reading rule', id);
    return rowOf(row);
  }

  private async readBy(id: string): Promise<readonly string[]> {
    return (await this.db.select({ id: evidence.id }).from(evidence).where(eq(evidence.ruleId, id))).map(
      (row) => row.id,
    );
  }

  private async keep(
    tx: Queryable,
    id: string,
    wish: ReadingRuleWish,
    actor: string,
    action: string,
  ): Promise<ReadingRuleRow> {
    const [other] = await tx.select({ id: readingRules.id }).from(readingRules).where(eq(readingRules.name, wish.name));
    if (other && other.id !== id) throw conflict(`There is a rule named “${wish.name}” already.`, 'Take another name.');
    const row = { ...wish, id, changedBy: actor, changedAt: new Date().toISOString() };
    await tx.insert(readingRules).values(row).onConflictDoUpdate({ target: readingRules.id, set: row });
    await appendAudit(tx, { actor, action, subject: id, details: { name: wish.name, pattern: wish.pattern } });
    return rowOf(row);
  }
}
