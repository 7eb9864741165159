import { randomUUID } from 'node:crypto';
import { and, desc, eq, inArray, or, sql } from 'drizzle-orm';
import { signInNameOf } from '@loyal-hinge/core';
import type { Link, LinkIdentity } from '@loyal-hinge/core';
import type { Check, CheckState } from '@loyal-hinge/contract';
import type { Database, Queryable } from '../database/database.js';
import { ofThese } from '../database/of-these.js';
import { checks } from '../database/schema.js';
import type { CheckedSubject } from '../database/schema.js';
import { checkQueues } from './queue-names.js';
import { ofNoProcess } from '../processes/of-no-process.js';

const atOnce = 2000;

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

/** Adds a queued check of each link, all or none. */
export async function addChecks(db: Database, linkIds: readonly string[], askedBy: string): Promise<Check[]> {
  if (linkIds.length === 0) return [];
  return db.transaction(async (tx) => {
    const added: Check[] = [];
    for (let from = 0; from < linkIds.length; from += atOnce) {
      const rows = linkIds
        .slice(from, from + atOnce)
        .map((linkId) => ({ id: randomUUID(), linkId, askedBy, state: 'queued' as const }));
      added.push(...(await tx.insert(checks).values(rows).returning()).map(checkOf));
    }
    return added;
  });
}

type AskedWrites = NonNullable<CheckRow['writes']>;

/** Adds a queued check of a link that writes items with the value that they have. */
export async function addWritingCheck(tx: Queryable, linkId: string, writes: AskedWrites): Promise<Check> {
  const row = { id: randomUUID(), linkId, askedBy: writes.by, state: 'queued' as const, writes };
  const [added] = await tx.insert(checks).values(row).returning();
  if (!added) throw new Error('the check was not added');
  return checkOf(added);
}

/** What a check is to write; null: nothing. */
export async function writesOfCheck(db: Queryable, id: string): Promise<AskedWrites | null> {
  const [row] = await db.select({ writes: checks.writes }).from(checks).where(eq(checks.id, id));
  return row?.writes ?? null;
}

/** Ends all checks that have not begun, and gives them. */
export async function cancelQueued(
  db: Queryable,
  to: { readonly endedAt: string; readonly reason: string },
): Promise<{ id: string; linkId: string }[]> {
  return db
    .update(checks)
    .set({ ...to, state: 'cancelled' })
    .where(eq(checks.state, 'queued'))
    .returning({ id: checks.id, linkId: checks.linkId });
}

export async function runningChecks(db: Queryable): Promise<string[]> {
  const rows = await db.select({ id: checks.id }).from(checks).where(eq(checks.state, 'running'));
  return rows.map(({ id }) => id);
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
  const subject = row?.subject ?? null;
  // Before there were several kinds of link, none was written down.
  return subject && { ...subject, link: { ...subject.link, kind: subject.link.kind ?? 'ua' } };
}

/** Checks of some links that have not ended, by link: the newest of each. */
export async function openChecks(db: Queryable, linkIds: readonly string[]): Promise<ReadonlyMap<string, Check>> {
  const rows = await db
    .select()
    .from(checks)
    .where(and(inArray(checks.state, ['queued', 'running']), ofThese(checks.linkId, linkIds)))
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
    and id not in (select data->>'checkId' from pgboss.job where name = any(${sql.param([...checkQueues])}::text[]) and state = 'created')`);
  return rows.map(({ id }) => id);
}

/** Links of other users at the same server whose newest check missed one of these items and did not know that it is there. */
export async function linksThatMissed(
  db: Queryable,
  { id, serverId, identity }: Pick<Link, 'id' | 'serverId' | 'identity'>,
  paths: readonly string[],
): Promise<readonly string[]> {
  const { rows } = await db.execute<{ id: string; identity: LinkIdentity }>(sql`
    select distinct l.id, l.identity from links l join assessments a on a.link_id = l.id join facts f on f.check_id = a.check_id
    where l.server_id = ${serverId} and l.id <> ${id} and a.leading_cause = 'item-missing'
      and f.body->>'kind' = 'item-found' and f.body->>'outcome' = 'missing'
      and f.body->>'path' = any(${sql.param([...paths])}::text[])
      and not exists (select from facts s where s.check_id = a.check_id and s.body->>'kind' = 'item-seen-by-other'
        and s.body->>'path' = f.body->>'path')`);
  return rows.filter((row) => signInNameOf(row.identity) !== signInNameOf(identity)).map((row) => row.id);
}
