import { createSocket } from 'node:dgram';
import { once } from 'node:events';
import { startNameServer } from '../../../stand-ins/src/name-server.js';
import { resolveHost } from './resolve.js';

const place = '127.77.0.54:5355';
const idle = new AbortController().signal;
const ask = (host: string, server = place) => resolveHost(host, server, 400, idle);
let server: { stop(): Promise<void> };

beforeAll(async () => {
  const book = new Map([
    ['both.marrowby.example', ['127.41.20.11', '::1']],
    ['newer.marrowby.example', ['fd00::11']],
  ]);
  server = await startNameServer(book, '127.77.0.54', 5355);
});
afterAll(() => server.stop());

describe('resolving a name', () => {
  it('gives addresses of both kinds, and is content with one of them', async () => {
    expect((await ask('both.marrowby.example')).addresses).toEqual(['127.41.20.11', '::1']);
    expect(await ask('newer.marrowby.example')).toMatchObject({ addresses: ['fd00::11'], failure: null });
  });

  it('tells a name that does not exist from a name server that does not answer', async () => {
    expect(await ask('nobody.marrowby.example')).toMatchObject({
      addresses: [],
      lookUp: 'answered',
      failure: 'the name is not known',
    });
    const silent = createSocket('udp4');
    silent.bind(5356, '127.77.0.55');
    await once(silent, 'listening');
    expect(await ask('both.marrowby.example', '127.77.0.55:5356')).toMatchObject({
      addresses: [],
      lookUp: 'not answered',
      failure: 'no answer in time',
    });
    silent.close();
    await once(silent, 'close');
    expect(await ask('both.marrowby.example', '127.77.0.56:5357')).toMatchObject({
      addresses: [],
      lookUp: 'not answered',
    });
  });

  it('asks nobody about an address', async () => {
    expect(await ask('::1')).toEqual({
      means: 'literal',
      asked: null,
      addresses: ['::1'],
      failure: null,
      lookUp: 'answered',
    });
  });
});
