import { once } from 'node:events';
import { createServer } from 'node:net';
import type { AddressInfo } from 'node:net';
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

  it.each([
    ['a length beyond reason behind the Acknowledge', Buffer.concat([acknowledge, message('MSGF', [1], 0xffffffff)])],
    ['a length that is none behind it', Buffer.concat([acknowledge, message('MSGF', [1], 3)])],
    ['noise in its place', Buffer.from('HTTP/1.1 400 Bad Request\r\n\r\n')],
    ['a cut-off Acknowledge', acknowledge.subarray(0, 20)],
  ])('ends with its connection, and ends nothing else, at %s', async (_, answer) => {
    const server = createServer((socket) => {
      socket.on('error', () => undefined);
      socket.once('data', () => socket.end(answer));
    }).listen(0, '127.0.0.1');
    await once(server, 'listening');
    const { port } = server.address() as AddressInfo;
    const endpointUrl = `opc.tcp://127.0.0.1:${port}`;
    const transport = new DiallingTransport({ endpointUrl, address: '127.0.0.1', port, from: null, timeoutMs: 3000 }, {
      name: 'tried',
    } as never);
    const ended = new Promise<void>((resolve) => {
      transport.on('close', () => resolve());
      transport.connect(endpointUrl, (error) => (error ? resolve() : undefined));
    });
    await ended;
    server.close();
    await once(server, 'close');
  });
});
