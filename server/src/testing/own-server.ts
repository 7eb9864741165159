import { spawn } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { closeSync, copyFileSync, mkdirSync, mkdtempSync, openSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import pg from 'pg';
import { given } from './given.js';

export interface OwnServer {
  setUp(): Promise<void>;
  /** Where it keeps what does not go into the database. */
  readonly folder: string;
  /** Where its database is, as the owner of its tables and as the server. */
  readonly databaseUrl: string;
  readonly serverDatabaseUrl: string;
  /** Starts it, again and again on the same data until that is removed; `way` leads to its database otherwise than directly. */
  serve(way?: string): Promise<{ readonly url: string; readonly child: ChildProcess }>;
  /** Kills it without a word, as a failing machine would, and comes back when the process is gone. */
  kill(child: ChildProcess): Promise<void>;
  /** The rows of its own database, read past the server. */
  read<Row extends pg.QueryResultRow>(query: string): Promise<readonly Row[]>;
  remove(): Promise<void>;
}

/** The password of its people: viewer, engineer and administrator. */
export const ownPassword = given('HINGE_TEST_PASSWORD');

/** A server of a test’s own, on a database of its own with the made-up plant in it, beside the one that all share: it may be killed. */
export function ownServer(name: string, more: Readonly<Record<string, string>> = {}): OwnServer {
  const built = join(process.cwd(), 'server/dist/programs');
  const folder = join(mkdtempSync(join(tmpdir(), 'hinge-')), 'kept');
  const env = {
    ...process.env,
    HINGE_DATABASE_URL: urlOf(given('HINGE_TEST_SERVER_DATABASE_URL'), name),
    HINGE_DATA: folder,
    HINGE_PORT: '0',
    HINGE_LOG: 'error',
    ...more,
  };
  const running: ChildProcess[] = [];
  const onServersDatabase = async (statement: string): Promise<void> => {
    const client = new pg.Client({ connectionString: databaseUrl('postgres') });
    await client.connect();
    await client.query(statement).finally(() => client.end());
  };
  return {
    folder,
    databaseUrl: databaseUrl(name),
    serverDatabaseUrl: env.HINGE_DATABASE_URL,
    async setUp() {
      mkdirSync(folder, { recursive: true });
      copyFileSync(join(given('HINGE_TEST_DATA'), 'sealing-key'), join(folder, 'sealing-key'));
      await onServersDatabase(`drop database if exists ${name}`);
      // Copied by way of the log, its sequences could step back when the database is halted.
      await onServersDatabase(`create database ${name} template seeded strategy file_copy`);
    },
    async serve(way = env.HINGE_DATABASE_URL) {
      const log = openSync(join(given('HINGE_TEST_DATA'), `${name}.log`), 'a');
      const child = spawn(process.execPath, [join(built, 'main.js')], {
        env: { ...env, HINGE_DATABASE_URL: way },
        stdio: ['ignore', log, log, 'ipc'],
      });
      closeSync(log);
      running.push(child);
      const [message] = (await once(child, 'message')) as [{ url: string; failed?: string }];
      if (message.failed) throw new Error(`the server did not start: ${message.failed}`);
      return { url: message.url, child };
    },
    kill,
    async read<Row extends pg.QueryResultRow>(query: string) {
      const client = new pg.Client({ connectionString: databaseUrl(name) });
      await client.connect();
      const { rows } = await client.query<Row>(query).finally(() => client.end());
      return rows;
    },
    async remove() {
      await Promise.all(
        running.filter(({ exitCode, signalCode }) => exitCode === null && signalCode === null).map(kill),
      );
      await onServersDatabase(`drop database if exists ${name} with (force)`);
      rmSync(dirname(folder), { recursive: true, force: true });
    },
  };
}

const databaseUrl = (name: string): string => urlOf(given('HINGE_TEST_DATABASE_URL'), name);
const urlOf = (url: string, name: string): string => Object.assign(new URL(url), { pathname: name }).href;

async function kill(child: ChildProcess): Promise<void> {
  const gone = once(child, 'exit');
  child.kill('SIGKILL');
  await gone;
}
