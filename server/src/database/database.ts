import { fileURLToPath } from 'node:url';
import { drizzle } from 'drizzle-orm/node-postgres';
import type { NodePgDatabase } from 'drizzle-orm/node-postgres';
import { migrate } from 'drizzle-orm/node-postgres/migrator';
import pg from 'pg';
import type { Logger } from 'pino';
import * as schema from './schema.js';

export type Database = NodePgDatabase<typeof schema>;
/** A database or one transaction of it. */
export type Queryable = Pick<Database, 'select' | 'insert' | 'update' | 'delete' | 'execute'>;

export interface OpenDatabase {
  readonly db: Database;
  isUp(): Promise<boolean>;
  close(): Promise<void>;
}

const migrationsFolder = fileURLToPath(new URL('../../drizzle', import.meta.url));

/** Connects and brings the schema up to date. */
export async function openDatabase(url: string, logger: Logger): Promise<OpenDatabase> {
  const pool = new pg.Pool({ connectionString: url, max: 16, connectionTimeoutMillis: 3000, keepAlive: true });
  pool.on('error', (error) => logger.warn({ reason: error.message }, 'a database connection broke'));
  const db = drizzle(pool, { schema });
  await migrate(db, { migrationsFolder });
  return {
    db,
    isUp: () =>
      pool.query('select 1').then(
        () => true,
        () => false,
      ),
    close: () => pool.end(),
  };
}

/** True for errors that mean that the database can't be had now, and may come back. */
export function isDatabaseAway(error: unknown): boolean {
  for (let current: unknown = error; current instanceof Error; current = current.cause) {
    const code = 'code' in current ? String(current.code) : '';
    if (/^(ECONNREFUSED|ECONNRESET|EPIPE|57P0[1-3]|08\w{3})$/.test(code)) return true;
    if (/connection terminated|timeout exceeded when trying to connect|Connection ended/i.test(current.message))
      return true;
  }
  return false;
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
