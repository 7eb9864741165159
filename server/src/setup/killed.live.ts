import { once } from 'node:events';
import type { Check } from '@loyal-hinge/contract';
import { signIn } from '../testing/calls.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const own = ownServer('killed');
beforeEach(() => own.setUp());
afterEach(() => own.remove());

describe('a server that is killed in the middle of a check', () => {
  it('says so at its next start, and carries out what was still waiting', async () => {
    const first = await own.serve();
    const { call, headers } = await signIn('engineer', first.url, ownPassword);
    const look = async (url: string, id: string): Promise<Check> => {
      const answer = await fetch(`${url}/api/checks/${id}`, { headers });
      return ((await answer.json()) as { check: Check }).check;
    };
    const { checks } = await call('checkAll', {}, {});
    await until(
      () => own.read<{ id: string }>("select id from checks where state = 'running'"),
      (running) => running.length > 0,
    );
    await own.kill(first.child);
    // What was going on is read when nobody is left to change it: a machine that is slow to kill may end a check before.
    const left = await own.read<Pick<Check, 'id' | 'state'>>('select id, state from checks where ended_at is null');
    const inState = (state: Check['state']) => left.filter((check) => check.state === state).map(({ id }) => id);
    const [interrupted, waiting] = [inState('running'), inState('queued')];
    expect(interrupted).not.toEqual([]);
    expect(waiting).not.toEqual([]);

    const second = await own.serve();
    const after = await until(
      () => Promise.all(checks.map(({ id }) => look(second.url, id))),
      (seen) => seen.every(({ endedAt }) => endedAt !== null),
    );
    const among = (ids: readonly string[]) => after.filter(({ id }) => ids.includes(id));
    for (const check of among(interrupted))
      expect(check).toMatchObject({ state: 'failed', reason: expect.stringContaining('Ask for it again') });
    expect(among(waiting).some(({ state }) => state === 'done')).toBe(true);
    expect(after.filter(({ state }) => state !== 'done').every(({ reason }) => reason !== null)).toBe(true);
    const gone = once(second.child, 'exit');
    second.child.kill('SIGTERM');
    expect(await gone).toEqual([0, null]);
  }, 300_000);
});
