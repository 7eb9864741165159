import { given, inPlant, plantGiven } from '../testing/given.js';
import { until } from '../testing/until.js';

const base = given('HINGE_TEST_URL');
const json = { 'content-type': 'application/json' };

interface Person {
  readonly cookie: string;
  readonly token: string;
}

async function signIn(name: string, password: string): Promise<Person> {
  const answer = await fetch(`${base}/api/session`, {
    method: 'POST',
    headers: json,
    body: JSON.stringify({ name, password }),
  });
  const { token } = (await answer.json()) as { token: string };
  return { token, cookie: answer.headers.get('set-cookie')?.split(';')[0] ?? '' };
}

let engineer: Person;
let viewer: Person;
beforeAll(async () => {
  engineer = await signIn('engineer', given('HINGE_TEST_PASSWORD'));
  viewer = await signIn('viewer', given('HINGE_TEST_PASSWORD'));
});

async function call(
  person: Person | null,
  method: string,
  path: string,
  body?: string,
): Promise<{ status: number; body: Record<string, unknown> }> {
  const headers = person ? { ...json, cookie: person.cookie, 'x-hinge-token': person.token } : json;
  const answer = await fetch(`${base}${path}`, { method, headers, ...(body === undefined ? {} : { body }) });
  const text = await answer.text();
  return { status: answer.status, body: text.startsWith('{') ? (JSON.parse(text) as Record<string, unknown>) : {} };
}
const send = (person: Person | null, method: string, path: string, body: unknown) =>
  call(person, method, path, JSON.stringify(body));

describe('who may call', () => {
  it('refuses a wrong password, and does not say what was wrong', async () => {
    expect(await send(null, 'POST', '/api/session', { name: 'engineer', password: 'wrong' })).toMatchObject({
      status: 401,
      body: { code: 'sign-in-refused' },
    });
    expect(await send(null, 'POST', '/api/session', { name: 'nobody', password: 'wrong' })).toMatchObject({
      status: 401,
      body: { code: 'sign-in-refused' },
    });
  });

  it('keeps the cookie from scripts and from other sites', async () => {
    const answer = await fetch(`${base}/api/session`, {
      method: 'POST',
      headers: json,
      body: JSON.stringify({ name: 'viewer', password: given('HINGE_TEST_PASSWORD') }),
    });
    expect(answer.headers.get('set-cookie')).toMatch(/HttpOnly.*SameSite=Strict/i);
    expect(answer.headers.get('content-security-policy')).toContain("default-src 'none'");
  });

  it('lets nobody in who is not signed in', async () => {
    expect(await call(null, 'GET', '/api/links')).toMatchObject({ status: 401, body: { code: 'not-signed-in' } });
  });

  it('lets a viewer look and not change', async () => {
    expect(await call(viewer, 'GET', '/api/links')).toMatchObject({ status: 200 });
    expect(await send(viewer, 'POST', '/api/checks', {})).toMatchObject({ status: 403, body: { code: 'not-allowed' } });
  });

  it('refuses a change without the token of the sign-in', async () => {
    expect(await send({ ...engineer, token: 'x' }, 'POST', '/api/checks', {})).toMatchObject({
      status: 403,
      body: { code: 'token-missing' },
    });
  });
});

describe('a call from a page', () => {
  it.each([
    ['its own', base, 400],
    ['its own, behind a proxy that speaks TLS', base.replace('http:', 'https:'), 400],
    ['another one', 'https://elsewhere.example', 403],
    ['none that has a name', 'null', 403],
  ])('of the origin %s', async (_, origin, status) => {
    const answer = await fetch(`${base}/api/checks`, {
      method: 'POST',
      headers: { ...json, cookie: engineer.cookie, 'x-hinge-token': engineer.token, origin },
      body: '{"linkIds": "all"}',
    });
    expect(answer.status).toBe(status);
  });
});

describe('bad input', () => {
  it.each([
    ['malformed JSON', 'POST', '/api/checks', '{"linkIds": [', 400, 'not-json'],
    ['a wrong type', 'POST', '/api/checks', '{"linkIds": "all"}', 400, 'not-valid'],
    [
      'an over-long body',
      'POST',
      '/api/checks',
      JSON.stringify({ linkIds: ['x'.repeat(1_100_000)] }),
      413,
      'too-large',
    ],
    ['an unknown link', 'POST', '/api/checks', '{"linkIds": ["nowhere"]}', 404, 'not-found'],
    ['an unknown check', 'GET', '/api/checks/none', undefined, 404, 'not-found'],
    ['an unknown call', 'GET', '/api/nothing', undefined, 404, 'not-found'],
    ['an unknown certificate', 'GET', '/api/certificates/00', undefined, 404, 'not-found'],
    [
      'a change for another link',
      'POST',
      '/api/links/energy--furnace/mendings',
      '{"change":{"kind":"set-password","linkId":"x","userName":"u"},"password":"p"}',
      400,
      'not-valid',
    ],
    ['a removal of what is still used', 'DELETE', '/api/plant/zones/hot-end', undefined, 409, 'conflict'],
  ])('%s gets a clear error', async (_, method, path, body, status, code) => {
    const answer = await call(engineer, method, path, body);
    expect({ status: answer.status, code: answer.body['code'] }).toEqual({ status, code });
    expect(String(answer.body['remedy']).length).toBeGreaterThan(10);
  });

  it('imports nothing of a plant with one bad row, and names row and field', async () => {
    const { body: document } = await call(engineer, 'GET', '/api/plant/document');
    const plant = document['plant'] as { machines: { addresses: string[] }[]; links: { id: string }[] };
    const bad = {
      ...document,
      plant: {
        ...plant,
        machines: plant.machines.map((machine, index) =>
          index === 3 ? { ...machine, addresses: ['10.0.0.999'] } : machine,
        ),
      },
    };
    const answer = await send(engineer, 'PUT', '/api/plant/document', bad);
    expect(answer.status).toBe(400);
    expect(answer.body['faults']).toEqual([{ place: 'plant.machines.3.addresses.0', says: 'This is no IP address.' }]);
    const dangling = { ...document, plant: { ...plant, links: [{ ...plant.links[0], clientId: 'nobody' }] } };
    expect(await send(engineer, 'PUT', '/api/plant/document', dangling)).toMatchObject({ status: 400 });
    const { body: after } = await call(engineer, 'GET', '/api/plant/document');
    expect(after).toEqual(document);
  });

  it('imports none of the machines of a file with one bad row', async () => {
    const csv = `id,zone,name,description,hostNames,addresses\nspare,hot-end,Spare,,,${inPlant('20.99')}\nworse,nowhere,Worse,,,\n`;
    const answer = await send(engineer, 'POST', '/api/plant/machines.csv', { csv });
    expect(answer.body['faults']).toEqual([{ place: 'row 3, zone', says: 'There is no zone “nowhere”.' }]);
    const { body } = await call(engineer, 'GET', '/api/plant');
    expect((body['machines'] as { id: string }[]).map(({ id }) => id)).not.toContain('spare');
  });
});

describe('the plant', () => {
  it('comes back the same after it was exported and imported', async () => {
    const { body: before } = await call(engineer, 'GET', '/api/plant/document');
    expect(await send(engineer, 'PUT', '/api/plant/document', before)).toMatchObject({ status: 200 });
    expect((await call(engineer, 'GET', '/api/plant/document')).body).toEqual(before);
  });

  it('never gives out a key or a password', async () => {
    const texts = await Promise.all(
      ['/api/plant', '/api/plant/document', '/api/links', '/api/links/line-display--furnace'].map((path) =>
        call(engineer, 'GET', path),
      ),
    );
    expect(JSON.stringify(texts)).not.toMatch(/PRIVATE KEY|"password"/);
  });
});

describe('checks', () => {
  it('run from the queue, tell their steps, and can be read up again after a break', async () => {
    const controller = new AbortController();
    const first = await fetch(`${base}/api/events`, {
      headers: { cookie: engineer.cookie },
      signal: controller.signal,
    });
    const started = await firstId(first);
    const { body: check } = await send(engineer, 'POST', '/api/links/line-display--furnace/checks', {});
    await until(
      async () =>
        (await call(engineer, 'GET', `/api/checks/${String(check['id'])}`)).body['check'] as Record<string, unknown>,
      (seen) => seen['state'] === 'done',
    );
    controller.abort();
    const again = await fetch(`${base}/api/events`, {
      headers: { cookie: engineer.cookie, 'last-event-id': String(started) },
    });
    const told = await readUntil(again, (text) => text.includes('check-ended'));
    expect(told).toContain(`"checkId":"${String(check['id'])}"`);
    expect(told.match(/"kind":"check-step"/g)?.length).toBeGreaterThanOrEqual(10);
    const detail = await call(engineer, 'GET', `/api/checks/${String(check['id'])}`);
    expect(detail.body['assessment']).toMatchObject({ state: 'Sound' });
    const link = await call(engineer, 'GET', '/api/links/line-display--furnace');
    expect(link.body).toMatchObject({ changedSince: false });
  });

  it('can be cancelled', async () => {
    const { body: check } = await send(engineer, 'POST', '/api/links/line-display--silo-levels/checks', {});
    const path = `/api/checks/${String(check['id'])}`;
    await until(
      async () => (await call(engineer, 'GET', path)).body['check'] as Record<string, unknown>,
      (seen) => seen['state'] === 'running',
    );
    expect(await send(engineer, 'POST', `${path}/cancel`, {})).toMatchObject({ status: 200 });
    const ended = await until(
      async () => (await call(engineer, 'GET', path)).body['check'] as Record<string, unknown>,
      (seen) => seen['endedAt'] !== null,
    );
    expect(ended).toMatchObject({ state: 'cancelled' });
  });

  it('of the same link are not doubled', async () => {
    const [one, other] = await Promise.all([
      send(engineer, 'POST', '/api/links/line-display--silo-levels/checks', {}),
      new Promise((resolve) => setTimeout(resolve, 60)).then(() =>
        send(engineer, 'POST', '/api/links/line-display--silo-levels/checks', {}),
      ),
    ]);
    expect(other.body['id']).toBe(one.body['id']);
  });
});

describe('settings', () => {
  it('are the administrator’s to change, and faulty ones are named', async () => {
    const { body: before } = await call(engineer, 'GET', '/api/settings');
    expect(before).toMatchObject({ declaredRanges: [plantGiven().range], nameServer: `${inPlant('0.53')}:5353` });
    expect(await send(engineer, 'PUT', '/api/settings', before)).toMatchObject({ status: 403 });
    const administrator = await signIn('administrator', given('HINGE_TEST_PASSWORD'));
    expect(await send(administrator, 'PUT', '/api/settings', before)).toEqual({
      status: 200,
      body: { ...before, waitsAs: null },
    });
    const faulty = await send(administrator, 'PUT', '/api/settings', { ...before, declaredRanges: ['10.0.0.0'] });
    expect(faulty.body['faults']).toEqual([
      { place: 'declaredRanges.0', says: 'This is no range such as 10.20.0.0/16.' },
    ]);
  });

  it('take a client’s certificate only with its own key, and never give the key out', async () => {
    const [one, other] = plantGiven().clients;
    const keep = (body: unknown) => send(engineer, 'PUT', `/api/identities/${one?.applicationId ?? ''}`, body);
    const own = { by: 'pem', certificatePem: one?.certificatePem, privateKeyPem: one?.privateKeyPem };
    expect((await keep({ ...own, privateKeyPem: other?.privateKeyPem })).body['faults']).toEqual([
      { place: 'privateKeyPem', says: 'This key does not belong to the certificate.' },
    ]);
    expect(await keep({ ...own, certificatePem: 'nonsense' })).toMatchObject({ status: 400 });
    expect(await keep({ ...own, privateKeyPem: 'nonsense' })).toMatchObject({ status: 400 });
    expect((await keep(own)).status).toBe(200);
    expect(JSON.stringify(await call(engineer, 'GET', '/api/identities'))).not.toContain('PRIVATE KEY');
  });
});

describe('what the server tells of itself', () => {
  it('tells database, queue and stand-ins apart', async () => {
    expect(await call(null, 'GET', '/api/health')).toEqual({
      status: 200,
      body: { status: 'well', database: 'up', queue: 'up' },
    });
  });

  it('describes every call, and serves a page of them', async () => {
    const { body } = await call(null, 'GET', '/api/openapi.json');
    expect(Object.keys(body['paths'] as object)).toContain('/api/links/{linkId}/mendings');
    expect(await (await fetch(`${base}/api/docs`)).text()).toContain('/api/links/:linkId/mendings');
  });

  it('judges an endpoint URL as it is typed', async () => {
    const { body } = await call(engineer, 'GET', `/api/judged-url?url=${encodeURIComponent('http://furnace :4840')}`);
    expect(body).toMatchObject({ cleaned: 'opc.tcp://furnace:4840', flaws: [{ kind: 'blank' }, { kind: 'scheme' }] });
  });
});

async function readUntil(answer: Response, enough: (text: string) => boolean): Promise<string> {
  const reader = answer.body?.getReader();
  let text = '';
  while (reader && !enough(text)) {
    const { value, done } = await reader.read();
    if (done) break;
    text += new TextDecoder().decode(value);
  }
  await reader?.cancel();
  return text;
}

async function firstId(answer: Response): Promise<number> {
  const reader = answer.body?.getReader();
  const { value } = (await reader?.read()) ?? {};
  reader?.releaseLock();
  return Number(/id: (\d+)/.exec(new TextDecoder().decode(value))?.[1]);
}
