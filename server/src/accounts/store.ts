import { and, desc, eq, sql } from 'drizzle-orm';
import type { ServerAccess, ServerSessions } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import { ofThese } from '../database/of-these.js';
import { accessReadings, accessUnread, accountPasswords, serverSessions } from '../database/schema.js';
import { newPasswordOf } from '../secrets/sealing.js';
import type { SecretStore } from '../secrets/sealing.js';

/** Roles and users of a server as they were read last. */
export interface SeenAccess {
  readonly access: ServerAccess;
  readonly seenAt: string;
}

/** By server, what was read last: of some servers, or of all. */
export async function seenAccess(
  db: Queryable,
  serverIds?: readonly string[],
): Promise<ReadonlyMap<string, SeenAccess>> {
  const rows = await db
    .selectDistinctOn([accessReadings.serverId])
    .from(accessReadings)
    .where(ofThese(accessReadings.serverId, serverIds))
    .orderBy(accessReadings.serverId, desc(accessReadings.readAt));
  return new Map(
    rows.map(({ serverId, access, seenAt }) => [
      serverId,
      // What was read before user certificates were looked at tells nothing of them.
      {
        access: { ...access, userCertificates: access.userCertificates ?? null },
        seenAt: new Date(seenAt).toISOString(),
      },
    ]),
  );
}

/** Keeps what was read: as a new row where it is other than before. */
export async function keepAccess(tx: Queryable, serverId: string, access: ServerAccess): Promise<void> {
  const now = new Date().toISOString();
  const { rowCount } = await tx.execute(sql`
    update access_readings set seen_at = ${now}::timestamptz
      where server_id = ${serverId} and access = ${JSON.stringify(access)}::jsonb
        and read_at = (select max(read_at) from access_readings where server_id = ${serverId})`);
  if (rowCount === 0) await tx.insert(accessReadings).values({ serverId, readAt: now, seenAt: now, access });
}

/** Who was connected to a server when that was read last; null: nobody asked. */
export async function connectedAt(
  db: Queryable,
  serverId: string,
): Promise<{ readonly readAt: string; readonly sessions: ServerSessions } | null> {
  const [row] = await db.select().from(serverSessions).where(eq(serverSessions.serverId, serverId));
  return row ? { readAt: new Date(row.readAt).toISOString(), sessions: row.sessions } : null;
}

export async function keepConnected(tx: Queryable, serverId: string, sessions: ServerSessions): Promise<void> {
  const row = { readAt: new Date().toISOString(), sessions };
  await tx
    .insert(serverSessions)
    .values({ serverId, ...row })
    .onConflictDoUpdate({ target: serverSessions.serverId, set: row });
}

/** Notes why a server’s roles and users could not be read; null: they were. */
export async function noteUnread(tx: Queryable, serverId: string, says: string | null): Promise<void> {
  await tx.delete(accessUnread).where(eq(accessUnread.serverId, serverId));
  if (says !== null) await tx.insert(accessUnread).values({ serverId, at: new Date().toISOString(), says });
}

/** By server, why its roles and users could not be read when that was tried last. */
export async function unreadAccess(db: Queryable, serverIds?: readonly string[]): Promise<ReadonlyMap<string, string>> {
  const rows = await db.select().from(accessUnread).where(ofThese(accessUnread.serverId, serverIds));
  return new Map(rows.map(({ serverId, says }) => [serverId, says]));
}

export type AccountPasswordRow = typeof accountPasswords.$inferSelect;

export async function addPassword(
  tx: Queryable,
  row: Pick<AccountPasswordRow, 'id' | 'serverId' | 'userName' | 'madeBy'>,
): Promise<void> {
  await tx.insert(accountPasswords).values(row);
}

/** A password of an account by its id; null: there is none of that account. */
export async function findPassword(
  db: Queryable,
  { id, serverId, userName }: Pick<AccountPasswordRow, 'id' | 'serverId' | 'userName'>,
): Promise<AccountPasswordRow | null> {
  const [row] = await db
    .select()
    .from(accountPasswords)
    .where(
      and(
        eq(accountPasswords.id, id),
        eq(accountPasswords.serverId, serverId),
        eq(accountPasswords.userName, userName),
      ),
    );
  return row ?? null;
}

/** Lets go of passwords that were sealed for an account before the one that it has now. */
export async function forgetEarlier(
  tx: Queryable,
  secrets: Pick<SecretStore, 'forget'>,
  { serverId, userName, secretId }: { readonly serverId: string; readonly userName: string; readonly secretId: string },
): Promise<void> {
  const own = await tx
    .select()
    .from(accountPasswords)
    .where(and(eq(accountPasswords.serverId, serverId), eq(accountPasswords.userName, userName)));
  const madeAt = Date.parse(own.find(({ id }) => id === secretId)?.madeAt ?? '');
  for (const row of own) {
    if (row.id === secretId || !(Date.parse(row.madeAt) < madeAt)) continue;
    await secrets.forget(tx, newPasswordOf(row.id));
    await tx.delete(accountPasswords).where(eq(accountPasswords.id, row.id));
  }
}

export async function noteSent(tx: Queryable, id: string): Promise<void> {
  await tx.update(accountPasswords).set({ sentAt: new Date().toISOString() }).where(eq(accountPasswords.id, id));
}
