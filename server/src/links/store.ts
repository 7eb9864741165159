import { and, desc, eq, inArray, or, sql } from 'drizzle-orm';
import type { Fact, LinkAssessment } from '@loyal-hinge/core';
import type { Check, CheckState } from '@loyal-hinge/contract';
import type { Queryable } from '../database/database.js';
import { assessments, checks, facts } from '../database/schema.js';
import type { CheckedSubject } from '../database/schema.js';
import { ofNoProcess } from '../processes/of-no-process.js';

type CheckRow = typeof checks.$inferSelect;

const iso = (text: string | null): string | null => (text === null ? null : new Date(text).toISOString());

const checkOf = (row: CheckRow): Check => ({
  id: row.id,
  linkId: row.linkId,
  state: row.state,
  askedBy: row.askedBy,
  askedAt: new Date(row.askedAt).toISOString(),
  begunAt: iso(row.begunAt),
  endedAt: iso(row.endedAt),
  reason: row.reason,
  found: row.found,
});

export async function addCheck(tx: Queryable, check: { id: string; linkId: string; askedBy: string }): Promise<Check> {
  const [row] = await tx
    .insert(checks)
    .values({ ...check, state: 'queued' })
    .returning();
  if (!row) throw new Error('the check was not written');
  return checkOf(row);
}

export async function findCheck(db: Queryable, id: string): Promise<Check | null> {
  const [row] = await db.select().from(checks).where(eq(checks.id, id));
  return row ? checkOf(row) : null;
}

export async function checksOfLink(db: Queryable, linkId: string, most: number): Promise<Check[]> {
  const rows = await db
    .select()
    .from(checks)
    .where(eq(checks.linkId, linkId))
    .orderBy(desc(checks.askedAt))
    .limit(most);
  return rows.map(checkOf);
}

/** The link as a check met it; null where the check never began. */
export async function subjectOfCheck(db: Queryable, checkId: string): Promise<CheckedSubject | null> {
  const [row] = await db.select({ subject: checks.subject }).from(checks).where(eq(checks.id, checkId));
  return row?.subject ?? null;
}

/** Checks that have not ended, by link: the newest of each. */
export async function openChecks(db: Queryable): Promise<ReadonlyMap<string, Check>> {
  const rows = await db
    .select()
    .from(checks)
    .where(inArray(checks.state, ['queued', 'running']))
    .orderBy(checks.askedAt);
  return new Map(rows.map((row) => [row.linkId, checkOf(row)]));
}

/** Moves a check on; null where it was not in one of the states that it may come from. */
export async function moveCheck(
  db: Queryable,
  id: string,
  from: readonly CheckState[],
  to: Partial<Pick<CheckRow, 'endedAt' | 'reason' | 'found'>> & {
    readonly state: CheckState;
  },
): Promise<Check | null> {
  const [row] = await db
    .update(checks)
    .set(to)
    .where(and(eq(checks.id, id), inArray(checks.state, [...from])))
    .returning();
  return row ? checkOf(row) : null;
}

/**
 * A process begins a queued check; null where it has ended or another process has begun it. Asked twice, since an answer
 * may be lost with its connection: what this process has begun already is its own.
 */
export async function beginCheck(
  db: Queryable,
  id: string,
  serverId: string,
  subject: CheckedSubject,
): Promise<Check | null> {
  const [row] = await db
    .update(checks)
    .set({ state: 'running', begunAt: new Date().toISOString(), subject, serverId })
    .where(
      and(
        eq(checks.id, id),
        or(eq(checks.state, 'queued'), and(eq(checks.state, 'running'), eq(checks.serverId, serverId))),
      ),
    )
    .returning();
  return row ? checkOf(row) : null;
}

/**
 * Ends the checks that were left in the middle, and gives them: those of a process that is gone, and those of this one
 * (`serverId`) that it does not carry out any more.
 */
export async function failInterruptedChecks(
  db: Queryable,
  { serverId, isAtWork }: { readonly serverId: string; readonly isAtWork: (checkId: string) => boolean },
  reason: string,
): Promise<Check[]> {
  const own = await db
    .select({ id: checks.id })
    .from(checks)
    .where(and(eq(checks.state, 'running'), eq(checks.serverId, serverId)));
  const dropped = own.map(({ id }) => id).filter((id) => !isAtWork(id));
  const rows = await db
    .update(checks)
    .set({ state: 'failed', reason, endedAt: new Date().toISOString() })
    .where(and(eq(checks.state, 'running'), or(ofNoProcess(checks.serverId), inArray(checks.id, dropped))))
    .returning();
  return rows.map(checkOf);
}

/** Checks that wait and have no waiting job: their job was lost when the server or the database went away. */
export async function orphanedChecks(db: Queryable, olderThanMs: number): Promise<string[]> {
  const before = new Date(Date.now() - olderThanMs).toISOString();
  const { rows } = await db.execute<{ id: string }>(sql`
    select id from checks where state = 'queued' and asked_at < ${before}
    and id not in (select data->>'checkId' from pgboss.job where name = 'checks' and state = 'created')`);
  return rows.map(({ id }) => id);
}

export async function addFacts(
  db: Queryable,
  checkId: string,
  linkId: string,
  from: number,
  added: readonly Fact[],
): Promise<void> {
  if (added.length === 0) return;
  const rows = added.map((fact, index) => {
    const { id, at, source, ...body } = fact;
    return { id, position: from + index, checkId, linkId, source, at, body };
  });
  await db.insert(facts).values(rows).onConflictDoNothing();
}

export async function factsOfCheck(db: Queryable, checkId: string): Promise<Fact[]> {
  const rows = await db.select().from(facts).where(eq(facts.checkId, checkId)).orderBy(facts.position);
  return rows.map((row) => ({ ...row.body, id: row.id, source: row.source, at: new Date(row.at).toISOString() }));
}

export interface KeptAssessment {
  readonly linkId: string;
  readonly checkId: string;
  readonly at: string;
  readonly body: LinkAssessment;
}

const keptOf = (row: typeof assessments.$inferSelect): KeptAssessment => ({
  ...row,
  at: new Date(row.at).toISOString(),
});

export async function keepAssessment(db: Queryable, kept: KeptAssessment): Promise<void> {
  await db
    .insert(assessments)
    .values(kept)
    .onConflictDoUpdate({ target: assessments.linkId, set: { checkId: kept.checkId, at: kept.at, body: kept.body } });
}

export async function allAssessments(db: Queryable): Promise<ReadonlyMap<string, KeptAssessment>> {
  return new Map((await db.select().from(assessments)).map((row) => [row.linkId, keptOf(row)]));
}

export async function assessmentOf(db: Queryable, linkId: string): Promise<KeptAssessment | null> {
  const [row] = await db.select().from(assessments).where(eq(assessments.linkId, linkId));
  return row ? keptOf(row) : null;
}

/** Throws away what was derived for links that are no longer there. */
export async function forgetOrphanedAssessments(db: Queryable): Promise<void> {
  await db.execute(sql`delete from assessments where link_id not in (select id from links)`);
}
