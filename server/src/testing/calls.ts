import type { AnswerOf, BodyOf, Problem, RouteName } from '@loyal-hinge/contract';
import { routes } from '@loyal-hinge/contract';
import { given } from './given.js';

/** Somebody who is signed in at the server that `npm test` has started. */
export interface Caller {
  /** What every request of this sign-in carries. */
  readonly headers: Readonly<Record<string, string>>;
  call<Name extends RouteName>(
    name: Name,
    params?: Readonly<Record<string, string>>,
    body?: BodyOf<Name>,
  ): Promise<AnswerOf<Name>>;
  /** A call that takes a query instead of a body. */
  query<Name extends RouteName>(
    name: Name,
    query: Readonly<Record<string, string>>,
    params?: Readonly<Record<string, string>>,
  ): Promise<AnswerOf<Name>>;
  /** The problem that a call is answered with; it fails where the call succeeds. */
  refused<Name extends RouteName>(
    name: Name,
    params?: Readonly<Record<string, string>>,
    body?: unknown,
  ): Promise<Problem>;
}

export async function signIn(
  name: string,
  base = given('HINGE_TEST_URL'),
  password = given('HINGE_TEST_PASSWORD'),
): Promise<Caller> {
  const json = { 'content-type': 'application/json' };
  const answer = await fetch(`${base}/api/session`, {
    method: 'POST',
    headers: json,
    body: JSON.stringify({ name, password }),
  });
  if (!answer.ok) throw new Error(`signIn: ${answer.status} ${await answer.text()}`);
  const { token } = (await answer.json()) as { token: string };
  const cookie = answer.headers.get('set-cookie')?.split(';')[0] ?? '';
  const send = (route: RouteName, params: Readonly<Record<string, string>>, body: unknown): Promise<Response> => {
    const { method, path } = routes[route];
    const place = path.replace(/:(\w+)/g, (_, key: string) => encodeURIComponent(params[key] ?? ''));
    return fetch(`${base}${place}`, {
      method: method.toUpperCase(),
      headers: { ...json, cookie, 'x-hinge-token': token },
      ...(method === 'get' || method === 'delete' ? {} : { body: JSON.stringify(body ?? {}) }),
    });
  };
  return {
    headers: { ...json, cookie, 'x-hinge-token': token },
    async call(route, params = {}, body) {
      const got = await send(route, params, body);
      if (!got.ok) throw new Error(`${route}: ${got.status} ${await got.text()}`);
      return (await got.json()) as AnswerOf<typeof route>;
    },
    async query(route, query, params = {}) {
      const path = routes[route].path.replace(/:(\w+)/g, (_, key: string) => encodeURIComponent(params[key] ?? ''));
      const got = await fetch(`${base}${path}?${new URLSearchParams(query)}`, { headers: { cookie } });
      if (!got.ok) throw new Error(`${route}: ${got.status} ${await got.text()}`);
      return (await got.json()) as AnswerOf<typeof route>;
    },
    async refused(route, params = {}, body) {
      const got = await send(route, params, body);
      if (got.ok) throw new Error(`${route} was not refused`);
      return (await got.json()) as Problem;
    },
  };
}
