import { and, eq, sql } from 'drizzle-orm';
import type { Queryable } from '../database/database.js';
import { serverRedundancy } from '../database/schema.js';

/** What a server said of those that stand in for it, and when. */
export type SeenRedundancy = typeof serverRedundancy.$inferSelect;

/**
 * Keeps it, where nothing newer is known.
 * @param seen with no URIs: nobody stands in for it
 * @returns whether it said something else before
 */
export async function keepRedundancy(tx: Queryable, { serverId, seenAt, uris }: SeenRedundancy): Promise<boolean> {
  const isOlder = sql`${serverRedundancy.seenAt} <= ${seenAt}::timestamptz`;
  if (uris.length === 0) {
    const gone = await tx
      .delete(serverRedundancy)
      .where(and(eq(serverRedundancy.serverId, serverId), isOlder))
      .returning({ serverId: serverRedundancy.serverId });
    return gone.length > 0;
  }
  const before = sql`(select r.uris from server_redundancy r where r.server_id = ${serverId})`;
  const kept = await tx
    .insert(serverRedundancy)
    .values({ serverId, seenAt, uris })
    .onConflictDoUpdate({ target: serverRedundancy.serverId, set: { seenAt, uris }, setWhere: isOlder })
    // The statement sees the row as it was before it.
    .returning({ isOther: sql<boolean>`${serverRedundancy.uris} is distinct from ${before}` });
  return kept[0]?.isOther ?? false;
}
