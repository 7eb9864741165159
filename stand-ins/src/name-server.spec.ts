import { Resolver } from 'node:dns/promises';
import { startNameServer } from './name-server.js';

describe('the name server of the made-up plant', () => {
  const book = new Map([
    ['furnace.marrowby.example', ['127.41.20.11']],
    ['lehr.marrowby.example', ['127.41.30.11', '127.41.30.12']],
  ]);
  const ask = async (name: string): Promise<readonly string[]> => {
    const resolver = new Resolver({ timeout: 60_000, tries: 1 });
    resolver.setServers(['127.77.0.53:5354']);
    return resolver.resolve4(name);
  };
  let server: { stop(): Promise<void> };
  beforeAll(async () => {
    server = await startNameServer(book, '127.77.0.53', 5354);
  });
  afterAll(() => server.stop());

  it('knows all addresses of a name, whatever its case', async () => {
    expect(await ask('LEHR.marrowby.example')).toEqual(['127.41.30.11', '127.41.30.12']);
  });

  it('says of others that they do not exist', async () => {
    await expect(ask('nobody.marrowby.example')).rejects.toMatchObject({ code: 'ENOTFOUND' });
  });
});
