import { connect } from 'node:net';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const own = ownServer('events_in_order');
let first = '';
let second = '';
let engineer: Caller;

beforeAll(async () => {
  await own.setUp();
  [first, second] = await Promise.all([own.serve(), own.serve()]).then(
    (both) => both.map(({ url }) => url) as [string, string],
  );
  engineer = await signIn('engineer', first, ownPassword);
}, 240_000);
afterAll(() => own.remove());

interface Reader {
  readonly ids: number[];
  readonly hello: Record<string, unknown>;
  isOpen: boolean;
  close(): void;
}

/** Reads a stream as a browser does; comes back when the server has greeted. */
async function read(base: string, caller: Caller, lastId?: number): Promise<Reader> {
  const end = new AbortController();
  const answer = await fetch(`${base}/api/events`, {
    headers: { ...caller.headers, ...(lastId === undefined ? {} : { 'last-event-id': String(lastId) }) },
    signal: end.signal,
  });
  const reader: { -readonly [Key in keyof Reader]: Reader[Key] } = {
    ids: [],
    hello: {},
    isOpen: true,
    close: () => end.abort(),
  };
  const greeted = new Promise<void>((resolve) => {
    void (async () => {
      let text = '';
      const decoder = new TextDecoder();
      for await (const chunk of answer.body as unknown as AsyncIterable<Uint8Array>) {
        text += decoder.decode(chunk, { stream: true });
        const blocks = text.split('\n\n');
        text = blocks.pop() ?? '';
        for (const block of blocks) {
          const data = /^data: (.*)$/m.exec(block)?.[1] ?? '{}';
          if (block.includes('event: hello')) {
            reader.hello = { ...(JSON.parse(data) as object), id: Number(/^id: (\d+)$/m.exec(block)?.[1]) };
            resolve();
          } else if (block.startsWith('id: ')) reader.ids.push(Number(/^id: (\d+)$/m.exec(block)?.[1]));
        }
      }
    })()
      .catch(() => undefined)
      .finally(() => (reader.isOpen = false));
  });
  await greeted;
  return reader;
}

const idsAfter = async (id: number): Promise<number[]> =>
  (await own.read<{ id: string }>(`select id from events where id > ${id} order by id`)).map((row) => Number(row.id));
const newest = async (): Promise<number> =>
  Number((await own.read<{ id: string }>('select max(id) as id from events'))[0]?.id);
const tell = (count: number, letters = 20): Promise<unknown> =>
  own.read(
    `select tell_event(jsonb_build_object('kind', 'order-changed', 'orderId', repeat('x', ${letters}))) from generate_series(1, ${count})`,
  );

describe('events', () => {
  it('reach every reader once and in order, whichever process told them and whichever is asked', async () => {
    const before = await newest();
    const readers = await Promise.all([read(first, engineer), read(second, engineer), read(second, engineer, before)]);
    await Promise.all(
      Array.from({ length: 12 }, async (_, writer) => {
        const caller = await signIn('engineer', writer % 2 === 0 ? first : second, ownPassword);
        for (let round = 0; round < 20; round += 1) {
          const id = `hall-${writer}`;
          await caller.call('putZone', { id }, { id, name: `Hall ${writer}`, order: round });
        }
      }),
    );
    await tell(100);
    const told = await idsAfter(before);
    expect(told.length).toBeGreaterThanOrEqual(340);
    for (const reader of readers) {
      await until(
        async () => reader.ids.length,
        (length) => length >= told.length,
      );
      expect(reader.ids).toEqual(told);
      reader.close();
    }
  });

  it('are all there for one who was away for long', async () => {
    const before = await newest();
    await tell(12_000);
    const reader = await read(second, engineer, before);
    const told = await idsAfter(before);
    await until(
      async () => reader.ids.length,
      (length) => length >= told.length,
    );
    expect(reader.ids).toEqual(told);
    await tell(1);
    await until(
      async () => reader.ids.length,
      (length) => length > told.length,
    );
    reader.close();
  });

  it('say so to one whose number was never given or is not kept any more', async () => {
    const ahead = await read(first, engineer, (await newest()) + 1_000_000);
    expect(ahead.hello).toEqual({ missed: true, id: await newest() });
    await tell(1);
    await until(
      async () => ahead.ids,
      (ids) => ids.length === 1,
    );
    await own.read('delete from events where id < (select max(id) from events)');
    const behind = await read(first, engineer, 1);
    expect(behind.hello).toMatchObject({ missed: true });
    expect((await read(first, engineer)).hello).not.toHaveProperty('missed');
    ahead.close();
    behind.close();
  });

  it('do not pile up for a reader that does not read: it is cut off', async () => {
    const { hostname, port } = new URL(first);
    const socket = connect({ host: hostname, port: Number(port) });
    socket.pause();
    let isClosed = false;
    socket.on('close', () => (isClosed = true));
    socket.on('error', () => undefined);
    const headers = Object.entries(engineer.headers).map(([name, value]) => `${name}: ${value}\r\n`);
    socket.write(`GET /api/events HTTP/1.1\r\nhost: ${hostname}\r\n${headers.join('')}\r\n`);
    const before = await newest();
    const attentive = await read(first, engineer, before);
    // More than the system’s own buffers hold.
    for (let round = 0; round < 12; round += 1) await tell(50, 20_000);
    const told = await idsAfter(before);
    await until(
      async () => attentive.ids.length,
      (length) => length >= told.length,
    );
    expect(attentive.ids).toEqual(told);
    // It reads again only after it was cut off: what was under way by then is all that it gets.
    await new Promise((resolve) => setTimeout(resolve, 25_000));
    socket.resume();
    await until(
      async () => isClosed,
      (closed) => closed,
    );
    attentive.close();
  });

  it('end with the sign-in', async () => {
    const leaving = await signIn('engineer', first, ownPassword);
    const [here, there] = [await read(first, leaving), await read(second, leaving)];
    await leaving.call('signOut');
    await until(
      async () => [here.isOpen, there.isOpen],
      (open) => !open.includes(true),
    );
    expect((await engineer.call('whoAmI')).name).toBe('engineer');
  });
});
