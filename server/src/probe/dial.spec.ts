import { createServer } from 'node:net';
import type { AddressInfo, Server, Socket } from 'node:net';
import { dialTcp, sayHello } from './dial.js';
import type { HelloResult } from './dial.js';

const idle = new AbortController().signal;
/** Longer than any busy machine takes: only what waits for silence may run out of time. */
const patience = 30_000;
const opened: { server: Server; sockets: Set<Socket> }[] = [];

afterEach(async () => {
  for (const { server, sockets } of opened.splice(0)) {
    for (const socket of sockets) socket.destroy();
    await new Promise<void>((resolve) => server.close(() => resolve()));
  }
});

const listen = (serve: (socket: Socket) => void): Promise<number> =>
  new Promise((resolve) => {
    const sockets = new Set<Socket>();
    const server = createServer((socket) => {
      sockets.add(socket);
      socket.on('error', () => undefined);
      serve(socket);
    });
    opened.push({ server, sockets });
    server.listen(0, '127.0.0.1', () => resolve((server.address() as AddressInfo).port));
  });

async function helloTo(serve: (socket: Socket) => void, timeoutMs = patience, signal = idle): Promise<HelloResult> {
  const { socket } = await dialTcp('127.0.0.1', await listen(serve), null, patience, idle);
  if (!socket) throw new Error('not open');
  return sayHello(socket, 'opc.tcp://furnace:4840', timeoutMs, signal);
}

/** ACK with the least buffers that the standard allows (Part 6 §7.1.2.4). */
const acknowledge = (): Buffer => {
  const message = Buffer.alloc(28);
  message.write('ACKF', 0, 'latin1');
  message.writeUInt32LE(28, 4);
  message.writeUInt32LE(8192, 12);
  message.writeUInt32LE(8192, 16);
  return message;
};

describe('dialling', () => {
  it('that was cancelled says nothing about the far side, before and after it began', async () => {
    const port = await listen(() => undefined);
    expect(await dialTcp('127.0.0.1', port, null, patience, AbortSignal.abort())).toMatchObject({
      outcome: 'cancelled',
      socket: null,
    });
    const leave = new AbortController();
    const dialled = dialTcp('127.0.0.1', port, null, patience, leave.signal);
    leave.abort();
    expect(await dialled).toMatchObject({ outcome: 'cancelled', socket: null });
  });

  it('from an address that this computer does not have is told as such', async () => {
    expect(await dialTcp('127.0.0.1', await listen(() => undefined), '192.0.2.1', patience, idle)).toMatchObject({
      outcome: 'not bound',
      socket: null,
    });
  });

  it('calls nobody silent who had answered while this process stood still', async () => {
    const port = await listen(() => undefined);
    await new Promise((turn) => setImmediate(turn));
    const dialled = dialTcp('127.0.0.1', port, null, 50, idle);
    Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 200);
    const { outcome, socket } = await dialled;
    expect(outcome).toBe('open');
    socket?.destroy();
  });

  it('tells an open port from a refused one', async () => {
    const port = await listen(() => undefined);
    const open = await dialTcp('127.0.0.1', port, null, patience, idle);
    open.socket?.destroy();
    const { server } = opened.splice(0, 1)[0] ?? {};
    await new Promise<void>((resolve) => (server ? server.close(() => resolve()) : resolve()));
    const refused = await dialTcp('127.0.0.1', port, null, patience, idle);
    expect([open.outcome, refused.outcome, refused.socket]).toEqual(['open', 'refused', null]);
  });

  it('comes from the address that it was told', async () => {
    let heard: (from: string | undefined) => void = () => undefined;
    const from = new Promise<string | undefined>((resolve) => (heard = resolve));
    const port = await listen(({ remoteAddress }) => heard(remoteAddress));
    const { socket } = await dialTcp('127.0.0.1', port, '127.0.0.77', patience, idle);
    expect(await from).toBe('127.0.0.77');
    socket?.destroy();
  });
});

describe('saying hello', () => {
  it('reads an acknowledgement that comes in two pieces', async () => {
    const result = await helloTo((socket) => {
      socket.write(acknowledge().subarray(0, 5));
      setTimeout(() => socket.write(acknowledge().subarray(5)), 20);
    });
    expect(result).toMatchObject({
      outcome: 'answered',
      answer: { kind: 'acknowledge', limits: { receiveBufferSize: 8192, sendBufferSize: 8192 } },
    });
  });

  it('names what speaks otherwise', async () => {
    const result = await helloTo((socket) => socket.end('HTTP/1.1 400 Bad Request\r\n\r\n'));
    expect(result).toMatchObject({
      outcome: 'answered',
      answer: { kind: 'other', looksLike: expect.stringMatching(/HTTP/) },
    });
  });

  it.each([
    ['is closed at once', (socket: Socket) => void socket.end(), patience, 'closed'],
    ['breaks off in the middle', (socket: Socket) => void socket.end(acknowledge().subarray(0, 9)), patience, 'closed'],
    ['hears nothing until the time is up', () => undefined, 100, 'silent'],
  ])('%s', async (_, serve, timeoutMs, outcome) => {
    expect(await helloTo(serve, timeoutMs)).toMatchObject({ outcome });
  });

  it('stops when it is told to', async () => {
    const controller = new AbortController();
    setTimeout(() => controller.abort(), 20);
    expect(await helloTo(() => undefined, 30_000, controller.signal)).toMatchObject({ outcome: 'cancelled' });
    expect(await helloTo(() => undefined, 30_000, controller.signal)).toMatchObject({ outcome: 'cancelled' });
  });
});
