import { createServer } from 'node:http';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { refusals } from '@loyal-hinge/contract/line';
import type { SourceEars, SourceItem, SourceValue } from './source';
import { TunnelSource } from './tunnel-source';

const statistics = (open: number, roundTripMs: number | null = 3) => ({
  name: 'inside',
  state: 'joined',
  peer: 'outside',
  joinedAt: null,
  roundTripMs,
  streams: { open, total: 9 },
  bytes: { sent: 12, received: 3 },
  joins: 1,
  refused: Object.fromEntries(refusals.map((why) => [why, 0])),
});

let server: Server | null = null;
let told = '';
let source: TunnelSource | null = null;
async function telling(text: string, port = 0): Promise<number> {
  told = text;
  server = createServer((_, answer) => answer.end(told));
  await new Promise<void>((done) => server?.listen(port, '127.0.0.1', done));
  return (server.address() as AddressInfo).port;
}
const silence = (): Promise<void> =>
  new Promise((done) => {
    server?.closeAllConnections();
    server?.close(() => done());
    server = null;
  });
afterEach(async () => {
  await source?.stop();
  if (server) await silence();
});

/** What a source tells, until the test is over. */
function heardFrom(port: number, wanted: readonly string[]) {
  const heard = { items: [] as readonly SourceItem[], values: new Map<string, SourceValue>(), gone: [] as string[] };
  const made = new TunnelSource({ kind: 'tunnel', name: 'tunnel', port, publishingMs: 250 }, wanted);
  source = made;
  const ears: SourceEars = {
    there: async (items) => {
      heard.items = items;
      await made.watch(items.map(({ path }) => path.join('/')));
    },
    changed: (path, value) => heard.values.set(path, value),
    gone: (says) => heard.gone.push(says),
  };
  made.start(ears);
  return heard;
}
async function until(isSo: () => boolean): Promise<void> {
  for (let turn = 0; turn < 400; turn += 1) {
    if (isSo()) return;
    await new Promise((done) => setTimeout(done, 20));
  }
  throw new Error('it did not come');
}

describe('what an end of a tunnel tells, as items', () => {
  it('is read by its paths, and again whenever it changes', async () => {
    const heard = heardFrom(await telling(JSON.stringify(statistics(2))), ['Streams/*', 'State', 'Refused/No line']);
    await until(() => heard.values.size === 4);
    expect(heard.items.map(({ path, type }) => [path.join('/'), type])).toEqual([
      ['State', 'String'],
      ['Streams/Open', 'Double'],
      ['Streams/Total', 'Double'],
      ['Refused/No line', 'Double'],
    ]);
    expect(heard.values.get('Streams/Open')).toMatchObject({ value: 2, status: 0 });
    told = JSON.stringify(statistics(5));
    await until(() => heard.values.get('Streams/Open')?.value === 5);
    expect(await source?.write()).toBe('BadNotWritable');
  });

  it('is bad where there is no value, and is gone and back with its port', async () => {
    const port = await telling(JSON.stringify(statistics(1, null)));
    const heard = heardFrom(port, ['Round trip ms']);
    await until(() => heard.values.has('Round trip ms'));
    expect(heard.values.get('Round trip ms')?.status).toBe(0x809b_0000);
    await silence();
    await until(() => heard.gone.length > 0);
    expect(heard.gone[0]).toBe(`Nobody tells anything at port ${port}.`);
    await telling(JSON.stringify(statistics(1, 7)), port);
    await until(() => heard.values.get('Round trip ms')?.value === 7);
  });

  it.each([
    ['nonsense', 'This is no JSON'],
    ['{"name": 1}', 'nothing of a tunnel'],
    ['x'.repeat(100_001), 'too long'],
  ])('is nothing where something else is told: %#', async (text, says) => {
    const heard = heardFrom(await telling(text), ['**']);
    await until(() => heard.gone.length > 0);
    expect(heard.gone[0]).toContain(says);
    expect(heard.items).toEqual([]);
  });
});
