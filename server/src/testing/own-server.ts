import { spawn } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';
import { given } from './given.js';

export interface OwnServer {
  setUp(): Promise<void>;
  /** Starts it, again and again on the same data until that is removed. */
  serve(): Promise<{ readonly url: string; readonly child: ChildProcess }>;
  /** Kills it without a word, as a failing machine would, and comes back when the process is gone. */
  kill(child: ChildProcess): Promise<void>;
  /** The rows of its own database, read past the server. */
  read<Row extends pg.QueryResultRow>(query: string): Promise<readonly Row[]>;
  remove(): Promise<void>;
}

/** The password of its people, engineer and administrator. */
export const ownPassword = 'a long password';

/** A server of a test’s own, on a database of its own, beside the made-up plant that all share: it may be killed. */
export function ownServer(name: string): OwnServer {
  const built = join(process.cwd(), 'server/dist');
  const folder = join(mkdtempSync(join(tmpdir(), 'hinge-')), 'kept');
  const shared = given('HINGE_TEST_DATABASE_URL');
  const env = {
    ...process.env,
    HINGE_DATABASE_URL: shared.replace(/\/postgres$/, `/${name}`),
    HINGE_DATA: folder,
    HINGE_PORT: '0',
    HINGE_LOG: 'error',
  };
  const running: ChildProcess[] = [];
  const onServersDatabase = async (statement: string): Promise<void> => {
    const client = new pg.Client({ connectionString: shared });
    await client.connect();
    await client.query(statement).finally(() => client.end());
  };
  const run = async (script: string, args: readonly string[], input = ''): Promise<void> => {
    const child = spawn(process.execPath, [join(built, 'setup', script), ...args], { env });
    child.stdin.end(input);
    const [code] = (await once(child, 'exit')) as [number];
    if (code !== 0) throw new Error(`${script} ended with ${code}`);
  };
  return {
    async setUp() {
      mkdirSync(folder);
      await onServersDatabase(`drop database if exists ${name}`);
      await onServersDatabase(`create database ${name}`);
      await run('take-over.js', [given('HINGE_TEST_HANDOVER')]);
      await run('put-person.js', ['engineer', 'engineer'], ownPassword);
      await run('put-person.js', ['administrator', 'administrator'], ownPassword);
    },
    async serve() {
      const child = spawn(process.execPath, [join(built, 'main.js')], {
        env,
        stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
      });
      running.push(child);
      const [message] = (await once(child, 'message')) as [{ url: string }];
      return { url: message.url, child };
    },
    kill,
    async read<Row extends pg.QueryResultRow>(query: string) {
      const client = new pg.Client({ connectionString: env.HINGE_DATABASE_URL });
      await client.connect();
      const { rows } = await client.query<Row>(query).finally(() => client.end());
      return rows;
    },
    async remove() {
      await Promise.all(
        running.filter(({ exitCode, signalCode }) => exitCode === null && signalCode === null).map(kill),
      );
      await onServersDatabase(`drop database if exists ${name} with (force)`);
      rmSync(folder, { recursive: true, force: true });
    },
  };
}

async function kill(child: ChildProcess): Promise<void> {
  const gone = once(child, 'exit');
  child.kill('SIGKILL');
  await gone;
}
