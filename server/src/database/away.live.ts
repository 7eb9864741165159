import { given } from '../testing/given.js';
import { plug } from '../testing/plug.js';
import { until } from '../testing/until.js';

const base = given('HINGE_TEST_URL');
const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

describe('a database that goes away under load', () => {
  it('is reported, comes back by itself, and no accepted check is lost', async () => {
    const signIn = await fetch(`${base}/api/session`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name: 'engineer', password: given('HINGE_TEST_PASSWORD') }),
    });
    const { token } = (await signIn.json()) as { token: string };
    const headers = {
      'content-type': 'application/json',
      cookie: signIn.headers.get('set-cookie')?.split(';')[0] ?? '',
      'x-hinge-token': token,
    };
    const asked = await fetch(`${base}/api/checks`, { method: 'POST', headers, body: '{}' });
    const { checks } = (await asked.json()) as { checks: { id: string }[] };
    expect(checks).toHaveLength(48);
    await pause(700);
    await plug('halt');
    try {
      expect(await (await fetch(`${base}/api/health`)).json()).toMatchObject({
        status: 'unwell',
        database: 'down',
        queue: 'down',
      });
      const refused = await fetch(`${base}/api/links`, { headers });
      expect([refused.status, refused.headers.get('retry-after')]).toEqual([503, '2']);
      expect(await refused.json()).toMatchObject({ code: 'database-away' });
      await pause(1500);
    } finally {
      await plug('start');
    }
    await until(
      () => fetch(`${base}/api/health`).then((answer) => answer.json() as Promise<{ status: string }>),
      ({ status }) => status === 'well',
    );
    const states = await until(
      () =>
        Promise.all(
          checks.map(async ({ id }) => {
            const answer = await fetch(`${base}/api/checks/${id}`, { headers });
            return answer.ok ? ((await answer.json()) as { check: { state: string } }).check.state : 'away';
          }),
        ),
      (seen) => seen.every((state) => state === 'done'),
    );
    expect(states).toEqual(checks.map(() => 'done'));
  }, 300_000);
});
