import { and, eq, sql } from 'drizzle-orm';
import type { Queryable } from '../database/database.js';
import { serverRedundancy } from '../database/schema.js';

/** What a server said of those that stand in for it, and when. */
export type SeenRedundancy = typeof serverRedundancy.$inferSelect;

/** Keeps it, where nothing newer is known. @param seen with no URIs: nobody stands in for it */
export async function keepRedundancy(tx: Queryable, seen: SeenRedundancy): Promise<void> {
  const isOlder = sql`${serverRedundancy.seenAt} <= ${seen.seenAt}::timestamptz`;
  if (seen.uris.length === 0)
    await tx.delete(serverRedundancy).where(and(eq(serverRedundancy.serverId, seen.serverId), isOlder));
  else
    await tx
      .insert(serverRedundancy)
      .values(seen)
      .onConflictDoUpdate({
        target: serverRedundancy.serverId,
        set: { seenAt: seen.seenAt, uris: seen.uris },
        setWhere: isOlder,
      });
}
