import { ownPassword, ownServer } from '../testing/own-server.js';

const own = ownServer('sign_in_limits');
let base: string;
beforeAll(async () => {
  await own.setUp();
  base = (await own.serve()).url;
});
afterAll(() => own.remove());

const attempt = (name: string, password: string): Promise<Response> =>
  fetch(`${base}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ name, password }),
  });

describe('signing in with wrong passwords', () => {
  it('is closed for that name, says when to try again, and locks nobody else out behind the same address', async () => {
    const wrong = await Promise.all(Array.from({ length: 5 }, () => attempt('engineer', 'wrong')));
    expect(new Set(wrong.map(({ status }) => status))).toEqual(new Set([401]));
    const refused = await attempt('engineer', ownPassword);
    expect(refused.status).toBe(429);
    expect(Number(refused.headers.get('retry-after'))).toBeGreaterThan(500);
    expect(await refused.json()).toMatchObject({
      code: 'too-many-attempts',
      remedy: expect.stringContaining('minutes'),
    });
    expect((await attempt('viewer', ownPassword)).status).toBe(200);
  });
});
