import { mayActAs, roles, routes } from '@loyal-hinge/contract';
import type { Role, RouteName } from '@loyal-hinge/contract';
import { signIn } from '../testing/calls.js';
import { ownPassword, ownServer } from '../testing/own-server.js';

const own = ownServer('admission');
let base: string;
const sessions = new Map<Role | 'ended' | 'expired' | 'with a first password', Readonly<Record<string, string>>>();
beforeAll(async () => {
  await own.setUp();
  base = (await own.serve()).url;
  for (const role of roles) sessions.set(role, (await signIn(role, base, ownPassword)).headers);
  const administrator = await signIn('administrator', base, ownPassword);
  await administrator.call('addPerson', {}, { name: 'new', role: 'administrator', password: ownPassword });
  sessions.set('with a first password', (await signIn('new', base, ownPassword)).headers);
  const ended = await signIn('administrator', base, ownPassword);
  await ended.call('signOut');
  sessions.set('ended', ended.headers);
  const expired = await signIn('administrator', base, ownPassword);
  sessions.set('expired', expired.headers);
  await own.read(
    `update sign_ins set expires_at = now() - interval '1 minute' where token = '${expired.headers['x-hinge-token']}'`,
  );
});
afterAll(() => own.remove());

const tokens = ['its own', 'none', 'another’s', 'empty'] as const;
type Token = (typeof tokens)[number];

/** What a call is sent with: a body that no call takes, so that whoever is let in is turned back there, and nothing happens. */
async function statusOf(name: RouteName, session: Readonly<Record<string, string>> | null, token: Token) {
  const { method, path } = routes[name];
  const place = path.replace(/:\w+/g, 'nothing-there');
  const headers: Record<string, string> = { 'content-type': 'application/json', ...session };
  if (token === 'none') delete headers['x-hinge-token'];
  if (token === 'empty') headers['x-hinge-token'] = '';
  if (token === 'another’s') headers['x-hinge-token'] = sessions.get('ended')?.['x-hinge-token'] ?? '';
  const answer = await fetch(`${base}${place}`, {
    method: method.toUpperCase(),
    headers,
    ...(method === 'get' ? {} : { body: '["no call takes this"]' }),
  });
  await answer.arrayBuffer();
  return answer.status;
}

/** Signing out ends the session that the others need. */
const names = (Object.keys(routes) as RouteName[]).filter((name) => name !== 'signOut');

describe('every call, with every role, token and session', () => {
  it.each(names)('%s lets in those alone who may', async (name) => {
    const needed: Role | null = routes[name].role;
    const changes = routes[name].method !== 'get';
    for (const token of ['its own', 'none'] as const)
      for (const who of [null, 'ended', 'expired'] as const) {
        const status = await statusOf(name, who === null ? null : (sessions.get(who) ?? null), token);
        if (needed === null) expect([200, 400, 404, 429]).toContain(status);
        else expect([who, token, status]).toEqual([who, token, 401]);
      }
    if (needed === null) return;
    const early = await statusOf(name, sessions.get('with a first password') ?? null, 'its own');
    if ('beforePassword' in routes[name]) expect([200, 400]).toContain(early);
    else expect(early).toBe(403);
    const tried = roles.flatMap((role) =>
      tokens.map(async (token) => {
        const status = await statusOf(name, sessions.get(role) ?? null, token);
        const isLetIn = mayActAs(role, needed) && (token === 'its own' || !changes);
        if (isLetIn) expect([200, 400, 404, 409]).toContain(status);
        else expect([role, token, status]).toEqual([role, token, 403]);
      }),
    );
    await Promise.all(tried);
  });
});
