import type { Plant } from '@loyal-hinge/core';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { ownPassword, ownServer } from '../testing/own-server.js';

const own = ownServer('heavy_work');
let base = '';
let engineer: Caller;
let plant: Plant;

beforeAll(async () => {
  await own.setUp();
  base = (await own.serve()).url;
  engineer = await signIn('engineer', base, ownPassword);
  plant = await engineer.call('plant');
});
afterAll(() => own.remove());

/** The plant with its first link many times over: a body that takes a while to read. */
const large = (copies: number): string => {
  const [link] = plant.links;
  const links = Array.from({ length: copies }, (_, index) => ({ ...link, id: `copy-${index}`, name: `Copy ${index}` }));
  return JSON.stringify({ format: 'loyal-hinge/plant', version: 1, plant: { ...plant, links } });
};
const send = (body: string, signal?: AbortSignal): Promise<Response> =>
  fetch(`${base}/api/plant/document`, {
    method: 'PUT',
    headers: engineer.headers,
    body,
    ...(signal ? { signal } : {}),
  });

describe('heavy work', () => {
  it('keeps nobody else waiting: what is asked later and is light is answered before it', async () => {
    const answered: string[] = [];
    const heavy = send(large(20_000)).then(async (answer) => {
      answered.push('import');
      return answer.status;
    });
    for (let asked = 0; asked < 5; asked += 1) {
      await fetch(`${base}/api/health`);
      answered.push('health');
    }
    await engineer.call('links');
    answered.push('links');
    expect(await heavy).toBe(200);
    expect(answered).toEqual(['health', 'health', 'health', 'health', 'health', 'links', 'import']);
    expect((await engineer.call('plant')).links).toHaveLength(20_000);
  });

  it('is ended when nobody waits for it any more, and has then changed nothing', async () => {
    const leave = new AbortController();
    const gone = send(large(19_000), leave.signal);
    setTimeout(() => leave.abort(), 400);
    await expect(gone).rejects.toThrow();
    expect(await (await send(JSON.stringify({ format: 'loyal-hinge/plant', version: 1, plant }))).json()).toEqual({
      waitsAs: null,
    });
    await new Promise((resolve) => setTimeout(resolve, 1500));
    expect((await engineer.call('plant')).links).toHaveLength(plant.links.length);
  });

  it('answers one question for all who ask it at once', async () => {
    const asked = await Promise.all(Array.from({ length: 40 }, () => engineer.call('trustFinding')));
    expect(new Set(asked.map(({ headline }) => headline)).size).toBe(1);
  });

  it.each([
    ['no JSON', '{"plant":', 400, 'not-json'],
    ['another shape', '{"format":"loyal-hinge/plant","version":2}', 400, 'not-valid'],
    [
      'a character that can’t be stored',
      '{"format":"loyal-hinge/plant","version":1,"plant":"\\u0000"}',
      400,
      'not-valid',
    ],
    ['too much', `"${'x'.repeat(31_000_000)}"`, 413, 'too-large'],
  ])('refuses %s with a sentence', async (_, body, status, code) => {
    const answer = await send(body);
    expect([answer.status, ((await answer.json()) as { code: string }).code]).toEqual([status, code]);
  });
});
