import { and, asc, eq, isNull, lte, or } from 'drizzle-orm';
import type { RecipientRow, RecipientWish } from '@loyal-hinge/contract';
import type { Queryable } from '../database/database.js';
import { recipients, secrets } from '../database/schema.js';

export type Recipient = typeof recipients.$inferSelect;

export const secretOf = (id: string): string => `recipient ${id}`;

export async function allRecipients(db: Queryable): Promise<readonly Recipient[]> {
  return db.select().from(recipients).orderBy(asc(recipients.name));
}

export async function findRecipient(db: Queryable, id: string): Promise<Recipient | null> {
  const [row] = await db.select().from(recipients).where(eq(recipients.id, id));
  return row ?? null;
}

/** Those who may be told now; each is given to one process until the transaction ends. */
export async function takeReady(tx: Queryable, now: string): Promise<readonly Recipient[]> {
  const isDue = or(isNull(recipients.nextTryAt), lte(recipients.nextTryAt, now));
  return tx
    .select()
    .from(recipients)
    .where(and(eq(recipients.isPaused, false), isDue))
    .for('update', { skipLocked: true });
}

/** Keeps a recipient. @param from the number of the span behind which telling begins; null: where it had come to */
export async function keepRecipient(
  tx: Queryable,
  id: string,
  { secret: _, ...wish }: RecipientWish,
  from: number | null,
): Promise<void> {
  const begins = from === null ? {} : { toldUpTo: from };
  const changed = { ...wish, ...begins, fault: null, failures: 0, nextTryAt: null };
  await tx
    .insert(recipients)
    .values({ toldUpTo: 0, ...changed, id })
    .onConflictDoUpdate({ target: recipients.id, set: changed });
}

export async function changeRecipient(
  tx: Queryable,
  id: string,
  changed: Partial<Pick<Recipient, 'toldUpTo' | 'lastToldAt' | 'fault' | 'failures' | 'nextTryAt'>>,
): Promise<void> {
  await tx.update(recipients).set(changed).where(eq(recipients.id, id));
}

export async function removeRecipient(tx: Queryable, id: string): Promise<void> {
  await tx.delete(recipients).where(eq(recipients.id, id));
}

const iso = (at: string | null): string | null => (at === null ? null : new Date(at).toISOString());

export async function rowOf(db: Queryable, one: Recipient): Promise<RecipientRow> {
  const { toldUpTo: _told, failures: _failures, quiet, lastToldAt, nextTryAt, ...rest } = one;
  const [kept] = await db
    .select({ name: secrets.name })
    .from(secrets)
    .where(eq(secrets.name, secretOf(one.id)));
  return {
    ...rest,
    quiet: quiet && { ...quiet, days: [...quiet.days] },
    hasSecret: kept !== undefined,
    lastToldAt: iso(lastToldAt),
    nextTryAt: iso(nextTryAt),
  };
}
