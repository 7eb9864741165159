import { notInArray, sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import { appendAudit } from '../audit/trail.js';
import type { Queryable } from '../database/database.js';
import type { SecretStore } from '../secrets/sealing.js';
import { clientCertificates, trustWays } from '../database/schema.js';
import type { SecretTarget } from '../database/schema.js';

/** Whose accounts a server takes, as `accountsOf` of the core says it. */
const accountsOfServer: SQL = sql`case a.application_uri when '' then 'classic:' || a.machine_id else a.application_uri end`;

/**
 * Who in the plant a secret may belong to, by the secret’s name (`passwordOf`, `keyOf`), and the target that its owner
 * has now: links, the push management of servers, and client applications.
 */
const owners: SQL = sql`(
  select 'password of link ' || l.id as name, jsonb_build_object('applicationUri', ${accountsOfServer},
    'endpointUrl', l.endpoint_url, 'pinnedAddress', l.pinned_address,
    'userName', coalesce(l.identity->>'userName', '')) as target
  from links l join applications a on a.id = l.server_id
  union all
  select 'password of link push--' || w.application_id, jsonb_build_object('applicationUri', a.application_uri,
    'endpointUrl', w.endpoint_url, 'pinnedAddress', null, 'userName', w.user_name)
  from trust_ways w join applications a on a.id = w.application_id where w.way = 'push'
  union all
  select 'key of ' || a.id, jsonb_build_object('applicationUri', a.application_uri)
  from applications a where a.kind = 'client'
)`;

/** Keys of authorities belong to no part of the plant. */
const ofPlant = sql`(s.name like 'password of link %' or (s.name like 'key of %' and s.name not like 'key of authority %'))`;

/**
 * Called in every transaction that changes the plant: secrets whose owner is gone are forgotten, so that an id that comes
 * again finds nothing; where an owner has another target now, everybody who changed it since is noted.
 */
export async function settleSecrets(tx: Queryable, actor: string): Promise<void> {
  for (const table of [trustWays, clientCertificates])
    await tx.delete(table).where(notInArray(table.applicationId, sql`(select id from applications)`));
  const { rows } = await tx.execute<{ name: string }>(
    sql`delete from secrets s where ${ofPlant} and s.name not in (select name from ${owners} o) returning s.name`,
  );
  await tx.execute(
    sql`delete from secrets where name like 'new password %' and name not in (select 'new password ' || id from account_passwords)`,
  );
  if (rows.length > 0) {
    const details = { secrets: rows.map(({ name }) => name) };
    await appendAudit(tx, { actor, action: 'secrets forgotten', subject: 'owners that are gone', details });
  }
  await tx.execute(sql`update secrets s set
    moved_to = case when s.target = o.target then null else o.target end,
    moved_by = case when s.target = o.target then array[]::text[] else array_append(s.moved_by, ${actor}::text) end
    from ${owners} o where o.name = s.name and s.target is not null and coalesce(s.moved_to, s.target) <> o.target`);
}

/** Secrets that were kept before they were bound to a target are bound to the one that their owner has. */
export async function bindSecrets(tx: Queryable, secrets: SecretStore): Promise<void> {
  const { rows } = await tx.execute<{ name: string; target: SecretTarget }>(
    sql`select s.name, o.target from secrets s join ${owners} o on o.name = s.name where s.target is null`,
  );
  for (const { name, target } of rows) await secrets.move(tx, name, null, target);
}
