import { sql } from 'drizzle-orm';
import type { OfferedEndpoint } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import { ofThese } from '../database/of-these.js';
import { serverEndpoints } from '../database/schema.js';

/** What a server said of its endpoints, and when. */
export type SeenEndpoints = typeof serverEndpoints.$inferSelect;

/** Keeps what a server said of its endpoints, where nothing newer is known. @returns whether it said something else before */
export async function keepEndpoints(tx: Queryable, seen: SeenEndpoints): Promise<boolean> {
  const { rows } = await tx.execute(sql`
    with before as (select endpoints from server_endpoints where server_id = ${seen.serverId})
    insert into server_endpoints (server_id, check_id, seen_at, endpoints)
    select id, ${seen.checkId}, ${seen.seenAt}::timestamptz, ${JSON.stringify(seen.endpoints)}::jsonb
      from applications where id = ${seen.serverId}
    on conflict (server_id) do update
      set (check_id, seen_at, endpoints) = (excluded.check_id, excluded.seen_at, excluded.endpoints)
      where server_endpoints.seen_at <= excluded.seen_at
    returning endpoints is distinct from (select endpoints from before) as is_other`);
  return (rows[0] as { readonly is_other: boolean } | undefined)?.is_other ?? false;
}

/** By server, what each said when it was asked last: of some servers, or of all. */
export async function knownEndpoints(
  db: Queryable,
  serverIds?: readonly string[],
): Promise<ReadonlyMap<string, { readonly seenAt: string; readonly endpoints: readonly OfferedEndpoint[] }>> {
  const rows = await db.select().from(serverEndpoints).where(ofThese(serverEndpoints.serverId, serverIds));
  return new Map(
    rows.map(({ serverId, seenAt, endpoints }) => [serverId, { seenAt: new Date(seenAt).toISOString(), endpoints }]),
  );
}
