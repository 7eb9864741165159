import { and, desc, eq, gt, ne } from 'drizzle-orm';
import { sql } from 'drizzle-orm';
import type { Session } from '@loyal-hinge/contract';
import { tellSignInsEnded } from '../events/notices.js';
import type { Queryable } from '../database/database.js';
import { signIns } from '../database/schema.js';
import { notFound } from '../http/problems.js';

const now = (): string => new Date().toISOString();

/** The open sessions of a person, the one that was used last first. */
export async function sessionsOf(db: Queryable, person: string, ownToken: string): Promise<Session[]> {
  const rows = await db
    .select()
    .from(signIns)
    .where(and(eq(signIns.person, person), gt(signIns.expiresAt, now())))
    .orderBy(desc(signIns.seenAt));
  return rows.map(({ id, since, seenAt, expiresAt, address, browser, token }) => ({
    id,
    since,
    seenAt,
    expiresAt,
    address,
    browser,
    isOwn: token === ownToken,
  }));
}

/** How many sessions are open, by person. */
export async function openSessions(db: Queryable): Promise<ReadonlyMap<string, number>> {
  const rows = await db
    .select({ person: signIns.person, count: sql<number>`count(*)::int` })
    .from(signIns)
    .where(gt(signIns.expiresAt, now()))
    .groupBy(signIns.person);
  return new Map(rows.map(({ person, count }) => [person, count]));
}

/** @throws a problem where the person has no such session */
export async function endSession(tx: Queryable, person: string, id: string): Promise<void> {
  const ended = await tx
    .delete(signIns)
    .where(and(eq(signIns.person, person), eq(signIns.id, id)))
    .returning({ id: signIns.id });
  if (ended.length === 0) throw notFound('session', id);
  await tellSignInsEnded(tx);
}

/** Ends all sessions of a person but the one that asks, where it is theirs, and the streams that hang on them. */
export async function endSessionsOf(tx: Queryable, person: string, but: string | null = null): Promise<number> {
  const others = but === null ? eq(signIns.person, person) : and(eq(signIns.person, person), ne(signIns.token, but));
  const ended = await tx.delete(signIns).where(others).returning({ id: signIns.id });
  if (ended.length > 0) await tellSignInsEnded(tx);
  return ended.length;
}
