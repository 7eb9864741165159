import { createServer } from 'node:net';
import type { AddressInfo, Server, Socket } from 'node:net';
import { RpcClient } from './client.js';
import { ndr, readPdu, writePdu } from './pdu.js';
import type { Syntax } from './pdu.js';

const asked: Syntax = { uuid: '0c4ad9b0-6f2f-4a3e-9d6b-5b3f0a6c1e01', major: 1, minor: 0 };
/** For what is answered, and for what never is: only a test of silence ends by its time. */
const within = { timeoutMs: 60_000 };
const briefly = { timeoutMs: 2000 };
const acknowledged = (callId: number, more: object = {}) =>
  writePdu({
    kind: 'bind-ack',
    flags: 3,
    callId,
    mostSent: 5840,
    mostReceived: 5840,
    group: 1,
    address: '',
    results: [{ result: 0, reason: 0, transfer: ndr }],
    ...more,
  });
const response = (callId: number, flags: number, length: number) =>
  writePdu({ kind: 'response', flags, callId, hint: 0, context: 0, stub: new Uint8Array(length) });

let server: Server | null = null;
afterEach(() => new Promise<void>((resolve) => (server ? server.close(() => resolve()) : resolve())));

/** A peer that does with each PDU what the test says. */
async function peer(answer: (octets: Buffer, socket: Socket, turn: number) => void): Promise<number> {
  const sockets = new Set<Socket>();
  const own = createServer((socket) => {
    let turn = 0;
    sockets.add(socket);
    socket.on('error', () => undefined);
    socket.on('close', () => sockets.delete(socket));
    socket.on('data', (octets) => answer(octets, socket, turn++));
  });
  const close = own.close.bind(own);
  own.close = (done) => {
    for (const socket of sockets) socket.destroy();
    return close(done);
  };
  server = own;
  await new Promise<void>((resolve) => own.listen(0, '127.0.0.1', resolve));
  return (own.address() as AddressInfo).port;
}

async function called(port: number, limit = within): Promise<unknown> {
  const client = await RpcClient.connect({ host: '127.0.0.1', port, ...within });
  try {
    await client.bind([asked], null, limit);
    const { stub } = await client.call(asked, 0, new Uint8Array(8), limit);
    return stub.length;
  } catch (error) {
    return { kind: (error as { kind?: string }).kind, says: (error as Error).message };
  } finally {
    client.close();
  }
}
const callIdOf = (octets: Buffer): number => readPdu(new Uint8Array(octets)).callId;

describe('a client before a peer that does not keep to the rules', () => {
  it('takes no peer for silent that answered while this process stood still', async () => {
    const port = await peer(() => undefined);
    await new Promise((turn) => setImmediate(turn));
    const dialled = RpcClient.connect({ host: '127.0.0.1', port, timeoutMs: 50 });
    Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 200);
    const client = await dialled;
    expect(client.isOpen).toBe(true);
    client.close();
  });

  it.each<[string, (octets: Buffer, socket: Socket, turn: number) => void, string, RegExp]>([
    ['says nothing', () => undefined, 'silent', /No answer came within the time/],
    [
      'answers with something else',
      (_octets, socket) => socket.write('HTTP/1.1 400 Bad Request\r\n\r\n'),
      'malformed',
      /Version 72 of RPC/,
    ],
    [
      'sends half an answer',
      (octets, socket) => socket.write(acknowledged(callIdOf(octets)).subarray(0, 20)),
      'silent',
      /within the time/,
    ],
    [
      'goes in the middle',
      (octets, socket) => socket.end(acknowledged(callIdOf(octets)).subarray(0, 20)),
      'ended',
      /ended the connection/,
    ],
    [
      'answers another call',
      (octets, socket) => socket.write(acknowledged(callIdOf(octets) + 7)),
      'malformed',
      /a call that was not made/,
    ],
    [
      'takes no PDU of a usual length',
      (octets, socket) => socket.write(acknowledged(callIdOf(octets), { mostReceived: 12 })),
      'malformed',
      /PDUs of 12 octets/,
    ],
    [
      'answers a bind by a response',
      (octets, socket) => socket.write(response(callIdOf(octets), 3, 4)),
      'malformed',
      /does not fit here/,
    ],
    [
      'begins an answer in the middle',
      (octets, socket, turn) =>
        socket.write(turn === 0 ? acknowledged(callIdOf(octets)) : response(callIdOf(octets), 2, 4)),
      'malformed',
      /don’t fit together/,
    ],
    [
      'says that it has more contexts than it sends',
      (octets, socket) => {
        const answer = acknowledged(callIdOf(octets));
        answer[28] = 200;
        socket.write(answer);
      },
      'malformed',
      /octets are wanted/,
    ],
  ])('one that %s', async (_case, answer, kind, says) => {
    const port = await peer(answer);
    expect(await called(port, kind === 'silent' ? briefly : within)).toEqual({
      kind,
      says: expect.stringMatching(says) as string,
    });
  });

  it('one whose answer never ends, an octet at a time', async () => {
    const port = await peer((octets, socket, turn) => {
      if (turn === 0) return void socket.write(acknowledged(callIdOf(octets)));
      const callId = callIdOf(octets);
      socket.write(response(callId, 1, 1));
      const timer = setInterval(
        () => (socket.destroyed ? clearInterval(timer) : socket.write(response(callId, 0, 1))),
        20,
      );
      return undefined;
    });
    expect(await called(port, briefly)).toEqual({ kind: 'silent', says: 'No answer came within the time.' });
  });

  it('one that sends more than anybody keeps', async () => {
    const port = await peer((octets, socket, turn) => {
      if (turn === 0) return void socket.write(acknowledged(callIdOf(octets)));
      const callId = callIdOf(octets);
      socket.write(response(callId, 1, 60_000));
      for (let part = 0; part < 300; part += 1) socket.write(response(callId, 0, 60_000));
      return undefined;
    });
    expect(await called(port)).toEqual({
      kind: 'malformed',
      says: 'The peer’s answer is longer than 16 MB.',
    });
  });
});
