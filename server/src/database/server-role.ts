import pg from 'pg';
import PgBoss from 'pg-boss';

/** The role of the running server: it may write rows, and change nothing that guards them. */
export const serverRole = 'hinge_server';
/** Rows of these are only ever added to (see also the triggers, which it can’t switch off). */
const onlyAdded = ['audit', 'facts', 'kept_facts', 'trust_history'];
const asOwner = [
  'settle_board()',
  'make_parts_ahead()',
  'forget_facts(timestamptz)',
  'forget_events(timestamptz)',
  'forget_checks(timestamptz, integer)',
  'forget_attempts(timestamptz)',
];

/**
 * Gives the running server its role: made where it is missing, with the password that it signs in with, and with just the
 * rights that it needs on a database whose tables are up to date. To be run by their owner, at every start.
 */
export async function prepareServerRole(ownerUrl: string, password: string): Promise<void> {
  const client = new pg.Client({ connectionString: ownerUrl });
  client.on('error', () => undefined);
  await client.connect();
  try {
    await putRole(client, password);
    await installQueue(client, ownerUrl);
    await client.query('begin');
    await client.query(`grant usage on schema public, drizzle to ${serverRole}`);
    await client.query(`grant select on all tables in schema drizzle to ${serverRole}`);
    await client.query(`grant select, insert, update, delete on all tables in schema public to ${serverRole}`);
    await client.query(`grant usage, select on all sequences in schema public to ${serverRole}`);
    for (const table of onlyAdded) await client.query(`revoke update, delete on ${table} from ${serverRole}`);
    // The parts of tables are reached through their tables alone.
    await client.query(`
      do $$ declare part regclass; begin
        for part in select inhrelid::regclass from pg_inherits where inhparent in ('facts'::regclass, 'events'::regclass, 'attempts'::regclass)
        loop execute format('revoke all on %s from ${serverRole}', part); end loop; end $$`);
    await client.query(`revoke insert on kept_facts from ${serverRole}`);
    // Old months, days and checks go by these functions alone: they act as their owner, whoever calls them.
    for (const routine of asOwner)
      await client.query(`alter function ${routine} security definer set search_path = public, pg_temp`);
    await client.query('revoke execute on function make_parts(text, text, timestamptz, timestamptz) from public');
    // What was restored from another cluster bears the numbers of that one’s transactions.
    await client.query('delete from trust_versions where changed_by > pg_current_xact_id()');
    await client.query('commit');
  } finally {
    await client.end().catch(() => undefined);
  }
}

async function putRole(client: pg.Client, password: string): Promise<void> {
  const { rowCount } = await client.query('select from pg_roles where rolname = $1', [serverRole]);
  const rights = 'login nosuperuser nocreatedb nocreaterole noinherit noreplication nobypassrls';
  const secret = client.escapeLiteral(password);
  await client.query(`${rowCount === 0 ? 'create' : 'alter'} role ${serverRole} ${rights} password ${secret}`);
}

/** The queue makes and changes its tables by itself: they are the server’s own, in a schema of their own. */
async function installQueue(client: pg.Client, ownerUrl: string): Promise<void> {
  const { rows } = await client.query<{ there: string | null }>("select to_regclass('pgboss.version')::text as there");
  if (rows[0]?.there === null) {
    const boss = new PgBoss({ connectionString: ownerUrl, max: 2, supervise: false, schedule: false });
    boss.on('error', () => undefined);
    await boss.start();
    await boss.stop({ graceful: false, wait: true });
  }
  await client.query(`
    do $$ declare one record; begin
      for one in
        select format('table pgboss.%I', relname) as thing from pg_class
          where relnamespace = 'pgboss'::regnamespace and relkind in ('r', 'p') and not relispartition
        union all select format('table pgboss.%I', relname) from pg_class
          where relnamespace = 'pgboss'::regnamespace and relkind = 'r' and relispartition
        union all select format('routine %s', oid::regprocedure) from pg_proc
          where pronamespace = 'pgboss'::regnamespace
        union all select format('type pgboss.%I', typname) from pg_type
          where typnamespace = 'pgboss'::regnamespace and typtype = 'e'
        union all select 'schema pgboss'
      loop execute format('alter %s owner to ${serverRole}', one.thing); end loop; end $$`);
}
