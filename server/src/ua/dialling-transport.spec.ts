import { once } from 'node:events';
import { createServer } from 'node:net';
import type { AddressInfo, Socket } from 'node:net';
import { DiallingTransport } from './dialling-transport.js';
import { silenceLibrary } from './quiet.js';

/** A message of 32-bit words behind its type and its length, which may be another than it has. */
function message(type: string, values: readonly number[], length = 8 + 4 * values.length): Buffer {
  const bytes = Buffer.alloc(8 + 4 * values.length);
  bytes.write(type, 'latin1');
  bytes.writeUInt32LE(length, 4);
  values.forEach((value, index) => bytes.writeUInt32LE(value, 8 + 4 * index));
  return bytes;
}

const acknowledge = message('ACKF', [0, 65_536, 65_536, 0, 0]);

describe('a transport', () => {
  beforeAll(() => silenceLibrary());

  /** A server that answers each Hello, and a transport that dials it. */
  async function dialled(
    answer: (socket: Socket) => void,
    timeoutMs = 3000,
  ): Promise<{ transport: DiallingTransport; endpointUrl: string; close: () => Promise<unknown> }> {
    const server = createServer((socket) => {
      socket.on('error', () => undefined);
      socket.once('data', () => answer(socket));
    }).listen(0, '127.0.0.1');
    await once(server, 'listening');
    const { port } = server.address() as AddressInfo;
    const endpointUrl = `opc.tcp://127.0.0.1:${port}`;
    const dial = { endpointUrl, address: '127.0.0.1', port, from: null, timeoutMs };
    const transport = new DiallingTransport(dial, { name: 'tried' } as never);
    const close = (): Promise<unknown> => {
      server.close();
      return once(server, 'close');
    };
    return { transport, endpointUrl, close };
  }

  it.each([
    ['a length beyond reason behind the Acknowledge', Buffer.concat([acknowledge, message('MSGF', [1], 0xffffffff)])],
    ['a length that is none behind it', Buffer.concat([acknowledge, message('MSGF', [1], 3)])],
    ['noise in its place', Buffer.from('HTTP/1.1 400 Bad Request\r\n\r\n')],
    ['a cut-off Acknowledge', acknowledge.subarray(0, 20)],
  ])('ends with its connection, and ends nothing else, at %s', async (_, answer) => {
    const { transport, endpointUrl, close } = await dialled((socket) => socket.end(answer));
    const ended = new Promise<void>((resolve) => {
      transport.on('close', () => resolve());
      transport.connect(endpointUrl, (error) => (error ? resolve() : undefined));
    });
    await ended;
    await close();
  });

  it('stays connected while nothing is said for longer than its opening may take', async () => {
    const patience = 100;
    let wasEndedByServer = false;
    const { transport, endpointUrl, close } = await dialled((socket) => {
      socket.write(acknowledge);
      setTimeout(() => {
        wasEndedByServer = true;
        socket.end();
      }, 5 * patience);
    }, patience);
    const ended = new Promise<void>((resolve) => transport.on('close', () => resolve()));
    await new Promise<void>((resolve, reject) =>
      transport.connect(endpointUrl, (error) => (error ? reject(error) : resolve())),
    );
    await ended;
    expect(wasEndedByServer).toBe(true);
    await close();
  });
});
