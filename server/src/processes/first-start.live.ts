import { signIn } from '../testing/calls.js';
import { ownPassword, ownServer } from '../testing/own-server.js';

const own = ownServer('first_start');
beforeEach(() => own.setUp());
afterEach(() => own.remove());

describe('several servers that start at the same moment on data without a queue yet', () => {
  it('all come up: its tables are made by one of them', async () => {
    const servers = await Promise.all([own.serve(), own.serve(), own.serve(), own.serve()]);
    for (const { url } of servers)
      expect((await (await signIn('engineer', url, ownPassword)).call('whoAmI')).name).toBe('engineer');
  }, 120_000);
});
