import { fileURLToPath } from 'node:url';
import { drizzle } from 'drizzle-orm/node-postgres';
import type { NodePgDatabase } from 'drizzle-orm/node-postgres';
import { sql } from 'drizzle-orm';
import { readMigrationFiles } from 'drizzle-orm/migrator';
import { migrate } from 'drizzle-orm/node-postgres/migrator';
import pg from 'pg';
import type { Logger } from 'pino';
import { StartRefusal } from '../system/start-refusal.js';
import { isDatabaseAway } from './faults.js';
import * as schema from './schema.js';

export type Database = NodePgDatabase<typeof schema>;
/** A database or one transaction of it. */
export type Queryable = Pick<Database, 'select' | 'selectDistinctOn' | 'insert' | 'update' | 'delete' | 'execute'>;

export interface OpenDatabase {
  readonly db: Database;
  isUp(): Promise<boolean>;
  close(): Promise<void>;
}

const migrationsFolder = fileURLToPath(new URL('../../drizzle', import.meta.url));

/** A connection of the pool is waited for so long; a database that is not there refuses at once. */
const longestWaitMs = 10_000;
/** A database that does not answer for so long is taken to be away. */
const longestQueryMs = 30_000;
/** Making a connection costs ten times what a query does: one that nobody has used is kept so long. */
const keptIdleMs = 300_000;

/** Connects and brings the schema up to date, where that is the connection’s to do; otherwise it must be up to date. */
export async function openDatabase(url: string, logger: Logger): Promise<OpenDatabase> {
  const opened = connectDatabase(url, logger, 16);
  try {
    if (await ownsTables(opened.db)) await oneAtATime(url, () => migrate(opened.db, { migrationsFolder }));
    else await refuseOtherTables(opened.db);
    return opened;
  } catch (error) {
    await opened.close();
    throw error;
  }
}

async function ownsTables(db: Database): Promise<boolean> {
  const { rows } = await db.execute<{ owns: boolean }>(sql`select has_schema_privilege('public', 'create') as owns`);
  return rows[0]?.owns ?? false;
}

async function refuseOtherTables(db: Database): Promise<void> {
  const wanted = readMigrationFiles({ migrationsFolder }).length;
  const { rows } = await db.execute<{ there: number }>(
    sql`select count(*)::int as there from drizzle.__drizzle_migrations`,
  );
  const there = rows[0]?.there ?? 0;
  if (there !== wanted)
    throw new StartRefusal(
      `${there < wanted ? 'The tables of the database are of an older version' : 'The tables of the database are of a newer version'}, and this role may not change them. Run prepare-database.js as their owner first (docs/formats.md).`,
    );
}

const startLock = 4_840_002;

/** Tables are made and changed by one process at a time, however many start on the same database at once. */
export async function oneAtATime<Result>(url: string, run: () => Promise<Result>): Promise<Result> {
  const client = new pg.Client({ connectionString: url, connectionTimeoutMillis: longestWaitMs });
  client.on('error', () => undefined);
  await client.connect();
  try {
    await client.query('select pg_advisory_lock($1)', [startLock]);
    return await run();
  } finally {
    // The lock falls with its connection.
    await client.end().catch(() => undefined);
  }
}

/** Connects to a database whose schema is up to date, with at most so many connections. */
export function connectDatabase(url: string, logger: Logger, most: number): OpenDatabase {
  const pool = new pg.Pool({
    connectionString: url,
    max: most,
    connectionTimeoutMillis: longestWaitMs,
    query_timeout: longestQueryMs,
    idleTimeoutMillis: keptIdleMs,
    keepAlive: true,
    // Compiling a query takes longer than any of ours would save by it.
    options: '-c jit=off',
  });
  const broke = (error: Error): void => logger.warn({ reason: error.message }, 'a database connection broke');
  pool.on('error', broke);
  // A connection that breaks while a transaction holds it tells so itself, and its query fails: without a listener the process would end.
  pool.on('connect', (client) => client.on('error', broke));
  return {
    db: Object.assign(drizzle(pool, { schema }), { transaction: transactionOn(pool) }),
    isUp: () =>
      pool.query('select 1').then(
        () => true,
        () => false,
      ),
    close: () => pool.end(),
  };
}

/**
 * A transaction on a connection of its own, which goes back to the pool whatever happens. Drizzle’s own keeps the
 * connection for ever where `begin` itself fails, as it does when the database goes away: after a few such moments
 * the pool is empty, and the server never recovers. A connection that broke is not used again.
 */
const transactionOn =
  (pool: pg.Pool): Database['transaction'] =>
  async (run, config) => {
    const client = await pool.connect();
    let isBroken = true;
    try {
      const result = await drizzle(client, { schema }).transaction((tx) => {
        connections.set(tx, client);
        return run(tx);
      }, config);
      isBroken = false;
      return result;
    } catch (error) {
      isBroken = isDatabaseAway(error);
      throw error;
    } finally {
      client.release(isBroken);
    }
  };

const connections = new WeakMap<object, pg.PoolClient>();

/** The connection of a transaction, for what is done on it past Drizzle. */
export function connectionOf(tx: Queryable): pg.PoolClient {
  const connection = connections.get(tx);
  if (!connection) throw new Error('this is no transaction');
  return connection;
}

/** Tries again while the database is away, for at most `patienceMs`. */
export async function persist<Result>(patienceMs: number, run: () => Promise<Result>): Promise<Result> {
  const until = Date.now() + patienceMs;
  for (let waitMs = 100; ; waitMs = Math.min(waitMs * 2, 2000)) {
    try {
      return await run();
    } catch (error) {
      if (!isDatabaseAway(error) || Date.now() + waitMs > until) throw error;
      await new Promise((resolve) => setTimeout(resolve, waitMs));
    }
  }
}
