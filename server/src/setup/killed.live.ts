import { spawn } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';
import type { Check } from '@loyal-hinge/contract';
import { given } from '../testing/given.js';
import { until } from '../testing/until.js';

const built = join(process.cwd(), 'server/dist');
const folder = mkdtempSync(join(tmpdir(), 'hinge-'));
const databaseUrl = given('HINGE_TEST_DATABASE_URL').replace(/\/postgres$/, '/killed');
const env = {
  ...process.env,
  HINGE_DATABASE_URL: databaseUrl,
  HINGE_DATA: folder,
  HINGE_PORT: '0',
  HINGE_LOG: 'error',
};
const running: ChildProcess[] = [];

async function onServersDatabase(statement: string): Promise<void> {
  const client = new pg.Client({ connectionString: given('HINGE_TEST_DATABASE_URL') });
  await client.connect();
  await client.query(statement).finally(() => client.end());
}

async function setUp(script: string, args: readonly string[], input = ''): Promise<void> {
  const child = spawn(process.execPath, [join(built, 'setup', script), ...args], { env });
  child.stdin.end(input);
  const [code] = (await once(child, 'exit')) as [number];
  expect(code).toBe(0);
}

async function serve(): Promise<{ readonly url: string; readonly child: ChildProcess }> {
  const child = spawn(process.execPath, [join(built, 'main.js')], {
    env,
    stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
  });
  running.push(child);
  const [message] = (await once(child, 'message')) as [{ url: string }];
  return { url: message.url, child };
}

beforeAll(async () => {
  await onServersDatabase('drop database if exists killed');
  await onServersDatabase('create database killed');
  await setUp('take-over.js', [given('HINGE_TEST_HANDOVER')]);
  await setUp('put-person.js', ['engineer', 'engineer'], 'a long password');
});
afterAll(async () => {
  for (const child of running) if (child.exitCode === null) child.kill('SIGKILL');
  await onServersDatabase('drop database if exists killed with (force)');
  rmSync(folder, { recursive: true, force: true });
});

describe('a server that is killed in the middle of a check', () => {
  it('says so at its next start, and carries out what was still waiting', async () => {
    const first = await serve();
    const json = { 'content-type': 'application/json' };
    const signIn = await fetch(`${first.url}/api/session`, {
      method: 'POST',
      headers: json,
      body: JSON.stringify({ name: 'engineer', password: 'a long password' }),
    });
    const { token } = (await signIn.json()) as { token: string };
    const headers = {
      ...json,
      cookie: signIn.headers.get('set-cookie')?.split(';')[0] ?? '',
      'x-hinge-token': token,
    };
    const look = async (url: string, id: string): Promise<Check> => {
      const answer = await fetch(`${url}/api/checks/${id}`, { headers });
      return ((await answer.json()) as { check: Check }).check;
    };
    const asked = await fetch(`${first.url}/api/checks`, { method: 'POST', headers, body: '{}' });
    const { checks } = (await asked.json()) as { checks: Check[] };
    const lookAtAll = (url: string) => Promise.all(checks.map(({ id }) => look(url, id)));
    const before = await until(
      () => lookAtAll(first.url),
      (seen) => seen.some(({ linkId, state }) => linkId === 'line-display--silo-levels' && state === 'running'),
    );
    first.child.kill('SIGKILL');
    await once(first.child, 'exit');

    const second = await serve();
    const after = await until(
      () => lookAtAll(second.url),
      (seen) => seen.every(({ endedAt }) => endedAt !== null),
    );
    expect(after.find(({ linkId }) => linkId === 'line-display--silo-levels')).toMatchObject({
      state: 'failed',
      reason: expect.stringContaining('Ask for it again'),
    });
    const waited = before.filter(({ state }) => state === 'queued').map(({ id }) => id);
    expect(after.filter(({ id, state }) => waited.includes(id) && state === 'done').length).toBeGreaterThan(0);
    expect(after.filter(({ state }) => state !== 'done').every(({ reason }) => reason !== null)).toBe(true);
    second.child.kill('SIGTERM');
    const [code] = (await once(second.child, 'exit')) as [number];
    expect(code).toBe(0);
  }, 60_000);
});
