import { once } from 'node:events';
import type { Check } from '@loyal-hinge/contract';
import { ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const own = ownServer('killed');
beforeAll(() => own.setUp());
afterAll(() => own.remove());

describe('a server that is killed in the middle of a check', () => {
  it('says so at its next start, and carries out what was still waiting', async () => {
    const first = await own.serve();
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

    const second = await own.serve();
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
  }, 300_000);
});
