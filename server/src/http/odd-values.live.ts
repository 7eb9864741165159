import fc from 'fast-check';
import { routes } from '@loyal-hinge/contract';
import type { Plant } from '@loyal-hinge/core';
import type { Problem, Route } from '@loyal-hinge/contract';
import { mutated, oddValues, samplesOf } from '../testing/samples.js';
import { ownPassword, ownServer } from '../testing/own-server.js';

const own = ownServer('odd_values');
let base = '';
let headers: Record<string, string> = {};

beforeAll(async () => {
  await own.setUp();
  base = (await own.serve()).url;
  await signInAgain();
}, 240_000);
afterAll(() => own.remove());

async function signInAgain(): Promise<void> {
  const json = { 'content-type': 'application/json' };
  const answer = await fetch(`${base}/api/session`, {
    method: 'POST',
    headers: json,
    body: JSON.stringify({ name: 'administrator', password: ownPassword }),
  });
  const { token } = (await answer.json()) as { token: string };
  headers = { ...json, cookie: answer.headers.get('set-cookie')?.split(';')[0] ?? '', 'x-hinge-token': token };
}

interface Sent {
  readonly method: string;
  readonly place: string;
  readonly body: string | null;
}

/** So many bodies of each route are sent: others every time, drawn by this seed. */
const bodiesOfRoute = 34;
const seed = Date.now();

function someOf(bodies: readonly string[]): readonly string[] {
  const count = Math.min(bodies.length, bodiesOfRoute);
  return (
    fc.sample(fc.shuffledSubarray([...bodies], { minLength: count, maxLength: count }), { numRuns: 1, seed })[0] ?? []
  );
}

const failures: string[] = [];
const broken: string[] = [];

/** Sends it and notes an answer that nobody may ever get. */
async function send({ method, place, body }: Sent): Promise<void> {
  const answer = await fetch(`${base}${place}`, {
    method: method.toUpperCase(),
    headers,
    ...(method === 'get' || method === 'delete' ? {} : { body }),
  });
  const said = await answer.text();
  const told = `seed ${seed}: ${method} ${place} ${body?.slice(0, 300) ?? ''}: ${answer.status} ${said.slice(0, 200)}`;
  // A machine that is busy may say so; everything else of the kind is an error that was not expected.
  if (answer.status >= 500 && !said.includes('"database-away"')) failures.push(told);
  if (answer.status >= 400 && answer.status !== 401) {
    const problem = JSON.parse(said) as Problem;
    if (!problem.detail || !problem.remedy) broken.push(told);
  }
}

async function sendAll(all: readonly Sent[]): Promise<void> {
  const waiting = [...all];
  const work = async (): Promise<void> => {
    for (let next = waiting.pop(); next; next = waiting.pop()) await send(next);
  };
  await Promise.all(Array.from({ length: 4 }, work));
}

const placeOf = (path: string, known: Readonly<Record<string, string>>): string =>
  path.replace(/:(\w+)/g, (_, name: string) => encodeURIComponent(known[name] ?? 'sample'));

const oddInPath = [
  '%00',
  'a%00b',
  '%ED%A0%80',
  '%',
  '%E0%A4%A',
  '%2e%2e',
  'x'.repeat(3000),
  '%F0%9F%98%80',
  'NaN',
  '-1',
  '1.5',
  '99999999999999999999',
  '__proto__',
  "';--",
];

/** Ids of things that are there, by the names of the fields that hold them. */
async function knownThings(): Promise<Readonly<Record<string, string>>> {
  const plant = (await (await fetch(`${base}/api/plant`, { headers })).json()) as Plant;
  const [link] = plant.links;
  const client = plant.applications.find(({ kind }) => kind === 'client');
  const server = plant.applications.find(({ kind }) => kind === 'server');
  const { authorities } = (await (await fetch(`${base}/api/authorities`, { headers })).json()) as {
    authorities: { thumbprint: string }[];
  };
  const thumbprint = authorities[0]?.thumbprint ?? '';
  return {
    linkId: link?.id ?? '',
    clientId: client?.id ?? '',
    serverId: server?.id ?? '',
    applicationId: client?.id ?? '',
    holderId: client?.id ?? '',
    machineId: plant.machines[0]?.id ?? '',
    zoneId: plant.zones[0]?.id ?? '',
    thumbprint,
    authority: thumbprint,
    position: '1',
    entry: '1',
    // Keys that are made in no time.
    keyKind: 'P-256',
    // Nobody is to be signed in by a sample, and nothing signed.
    password: 'not the password',
    passphrase: 'not the passphrase',
  };
}

/** Left out: what ends the sign-in of this test. */
const served = Object.entries<Route>(routes).filter(([name]) => name !== 'signOut' && name !== 'signIn');

describe('whatever is sent', () => {
  it('is never answered by an unexpected error, in a body, a path or a query', async () => {
    const known = await knownThings();
    const all: Sent[] = [];
    for (const [, { method, path, body, query }] of served) {
      const place = placeOf(path, known);
      const bodies = new Set<string>();
      for (const name of path.match(/:\w+/g) ?? [])
        for (const odd of oddInPath)
          all.push({ method, place: placeOf(path.replace(name, odd), known), body: body ? '{}' : null });
      for (const sample of body ? samplesOf(body, known) : [])
        for (const odd of oddValues)
          for (const other of mutated(sample, odd)) bodies.add(JSON.stringify(other) ?? 'undefined');
      for (const text of someOf([...bodies])) all.push({ method, place, body: text });
      if (body)
        for (const text of [
          '',
          '{',
          'null',
          '[]',
          '"a"',
          '1',
          '\u0000',
          '{"a":"\\ud800"}',
          `${'['.repeat(50_000)}${']'.repeat(50_000)}`,
        ])
          all.push({ method, place, body: text });
      for (const sample of query ? samplesOf(query, known) : [])
        for (const field of Object.keys(sample as object))
          for (const odd of ['%00', '%ED%A0%80', '%', 'x'.repeat(6000), '', `a&${field}=b`])
            all.push(
              { method, place: `${place}?${field}=${odd}`, body: null },
              { method, place: `${place}?${field}[a]=${odd}`, body: null },
            );
    }
    expect(all.length).toBeGreaterThan(4000);
    await sendAll(all);
    expect(failures).toEqual([]);
    expect(broken).toEqual([]);
  }, 600_000);

  it('breaks no page afterwards', async () => {
    await signInAgain();
    const known = await knownThings();
    const { links } = (await (await fetch(`${base}/api/plant`, { headers })).json()) as Plant;
    await sendAll([
      ...served.flatMap(([, { method, path }]) =>
        method === 'get' ? [{ method, place: placeOf(path, known), body: null }] : [],
      ),
      ...links.map(({ id }) => ({ method: 'get', place: `/api/links/${id}`, body: null })),
    ]);
    expect(failures).toEqual([]);
    expect(links.length).toBeGreaterThan(0);
  });
});
