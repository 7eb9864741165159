import { sql } from 'drizzle-orm';
import { signInNameOf } from '@loyal-hinge/core';
import type { Link, LinkIdentity } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import type { SeenByOther } from '../probe/means.js';

/**
 * Who else found items at the server of a link: in the newest checks of other links, and in the newest snapshots of
 * rights. The newest of each item, and nobody who signs in as this link does.
 */
export async function seenByOthers(
  db: Queryable,
  link: Pick<Link, 'id' | 'serverId' | 'identity'>,
  paths: readonly string[],
): Promise<readonly SeenByOther[]> {
  const wanted = sql.param([...paths]);
  const own = signInNameOf(link.identity);
  const [checks, snapshots] = await Promise.all([
    db.execute<{ path: string; identity: LinkIdentity; at: string }>(sql`
      select f.body->>'path' as path, l.identity, f.at
      from links l join assessments a on a.link_id = l.id join facts f on f.check_id = a.check_id
      where l.server_id = ${link.serverId} and l.id <> ${link.id} and f.body->>'kind' = 'item-found'
        and f.body->>'outcome' = 'found' and f.body->>'path' = any(${wanted}::text[])`),
    db.execute<{ path: string; name: string; at: string }>(sql`
      select array_to_string(n.path, '/') as path, s.user_name as name, s.ended_at as at
      from (select distinct on (user_name) id, user_name, ended_at from rights_snapshots
            where server_id = ${link.serverId} and state in ('whole', 'part') and nodes > 0 and user_name <> ${own}
            order by user_name, asked_at desc) s
      join rights_nodes n on n.snapshot_id = s.id and array_to_string(n.path, '/') = any(${wanted}::text[])`),
  ]);
  const found: readonly SeenByOther[] = [
    ...checks.rows.map(({ path, identity, at }) => ({
      path,
      as: signInNameOf(identity),
      on: at,
      by: 'a check' as const,
    })),
    ...snapshots.rows.map(({ path, name, at }) => ({ path, as: name, on: at, by: 'a snapshot of rights' as const })),
  ].map((seen) => ({ ...seen, on: new Date(seen.on).toISOString() }));
  const newest = new Map<string, SeenByOther>();
  for (const seen of found)
    if (seen.as !== own && seen.on >= (newest.get(seen.path)?.on ?? '')) newest.set(seen.path, seen);
  return [...newest.values()];
}
