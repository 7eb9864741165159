import { request } from 'node:http';
import type { ClientRequest } from 'node:http';
import type { Caller } from '../testing/calls.js';
import { signIn } from '../testing/calls.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const own = ownServer('bodies');
let base: string;
let viewer: Caller, engineer: Caller;
beforeAll(async () => {
  await own.setUp();
  base = (await own.serve()).url;
  viewer = await signIn('viewer', base, ownPassword);
  engineer = await signIn('engineer', base, ownPassword);
});
afterAll(() => own.remove());

interface Upload {
  readonly sent: ClientRequest;
  readonly status: Promise<number>;
}

/** Says that 25 MB will come, and sends only the beginning: whoever waits for the rest waits for ever. */
function beginning(headers: Readonly<Record<string, string>>, path = '/api/plant/document'): Upload {
  const sent = request(`${base}${path}`, {
    method: 'PUT',
    headers: { 'content-type': 'application/json', ...headers, 'content-length': '25000000' },
  });
  const status = new Promise<number>((resolve) => {
    sent.on('response', (answer) => {
      answer.resume();
      resolve(answer.statusCode ?? 0);
    });
    sent.on('error', () => resolve(0));
  });
  sent.write('{"format": "loyal-hinge/plant"');
  return { sent, status };
}

describe('a large body', () => {
  it('is not waited for from anybody who may not send it, however many they are', async () => {
    const uploads = [
      ...Array.from({ length: 24 }, () => beginning({})),
      ...Array.from({ length: 24 }, () => beginning(viewer.headers)),
      beginning({ ...engineer.headers, 'x-hinge-token': 'another' }),
    ];
    const statuses = await Promise.all(uploads.map(({ status }) => status));
    expect(statuses.slice(0, 24)).toEqual(Array.from({ length: 24 }, () => 401));
    expect(statuses.slice(24)).toEqual(Array.from({ length: 25 }, () => 403));
    for (const { sent } of uploads) sent.destroy();
  });

  it('is read a few at a time; more than can wait are told so, and those that break off make room', async () => {
    const stalled = Array.from({ length: 10 }, () => beginning(engineer.headers));
    // Two are being read and eight wait, once all have come in.
    await until(
      async () => {
        const late = beginning(engineer.headers);
        const quick = await Promise.race([late.status, new Promise<null>((resolve) => setTimeout(resolve, 500, null))]);
        if (quick !== 503) late.sent.destroy();
        return quick;
      },
      (status) => status === 503,
    );
    for (const { sent } of stalled) sent.destroy();
    const { plant } = (await engineer.call('exportPlant')) as { plant: { links: readonly unknown[] } };
    const answer = await until(
      () =>
        fetch(`${base}/api/plant/document`, {
          method: 'PUT',
          headers: engineer.headers,
          body: JSON.stringify({ format: 'loyal-hinge/plant', version: 1, plant }),
        }),
      ({ status }) => status !== 503,
    );
    expect(answer.status).toBe(200);
    expect(((await engineer.call('plant')) as { links: readonly unknown[] }).links).toHaveLength(plant.links.length);
  });

  it('of any other call is at most 1 MB, and well-formed', async () => {
    const send = async (body: string): Promise<number> =>
      (await fetch(`${base}/api/checks`, { method: 'POST', headers: engineer.headers, body })).status;
    expect(await send(JSON.stringify({ linkIds: ['x'.repeat(1_100_000)] }))).toBe(413);
    expect(await send('{"linkIds": [')).toBe(400);
  });
});
