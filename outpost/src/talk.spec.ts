import { createServer, connect } from 'node:net';
import type { Server, Socket } from 'node:net';
import type { AddressInfo } from 'node:net';
import { fromOutpost, longestLine } from '@loyal-hinge/contract/line';
import type { FromOutpost, FromServer } from '@loyal-hinge/contract/line';
import { Talk } from './talk';

let server: Server;
const heard: FromOutpost[] = [];
const gone: (string | null)[] = [];
const open: Socket[] = [];
beforeAll(async () => {
  server = createServer((socket) => {
    open.push(socket);
    new Talk<FromOutpost, FromServer>(
      socket,
      fromOutpost,
      { heard: (message) => heard.push(message), gone: (says) => gone.push(says) },
      { kind: 'alive' },
    );
  });
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
});
beforeEach(() => {
  heard.length = 0;
  gone.length = 0;
});
afterAll(() => {
  for (const socket of open) socket.destroy();
  server.close();
});

function dialled(): Socket {
  const socket = connect((server.address() as AddressInfo).port, '127.0.0.1');
  socket.on('error', () => undefined);
  open.push(socket);
  return socket;
}
async function until(isSo: () => boolean): Promise<void> {
  for (const end = Date.now() + 10_000; !isSo();) {
    if (Date.now() > end) throw new Error('it never came to this');
    await new Promise((done) => setTimeout(done, 10));
  }
}

describe('a talk between an outpost and the server', () => {
  it('is heard message by message, however the bytes come', async () => {
    const socket = dialled();
    const text = `{"kind":"here","version":"1"}\n{"kind":"alive"}\n{"kind":"renew","requestPem":"ü"}\n`;
    for (const byte of Buffer.from(text)) {
      socket.write(Buffer.of(byte));
      if (byte === 0x0a) await new Promise((done) => setTimeout(done, 5));
    }
    await until(() => heard.length === 2);
    expect(heard).toEqual([
      { kind: 'here', version: '1' },
      { kind: 'renew', requestPem: 'ü' },
    ]);
    socket.end();
    await until(() => gone.length === 1);
    expect(gone).toEqual([null]);
  });

  it.each([
    ['no JSON', 'GET / HTTP/1.1\r\n\n', 'no message'],
    ['an unknown kind', '{"kind":"format-disk"}\n', 'no message that is known'],
    ['a field too many', '{"kind":"here","version":"1","as":"root"}\n', 'no message that is known'],
  ])('ends at %s', async (_, sent, says) => {
    const socket = dialled();
    socket.write(sent);
    await until(() => gone.length === 1);
    expect(gone[0]).toContain(says);
    expect(heard).toEqual([]);
  });

  it('ends at a line that is too long, before it is whole', async () => {
    const socket = dialled();
    const part = Buffer.alloc(1 << 20, 'x');
    for (let sent = 0; sent <= longestLine + part.length && !socket.destroyed; sent += part.length) {
      socket.write(part);
      await new Promise((done) => setTimeout(done, 1));
    }
    await until(() => gone.length === 1);
    expect(gone).toEqual(['A message is too long.']);
  });
});
