import { startAdminDoor } from './admin-door.js';
import type { Stoppable } from './other-ports.js';
import type { RunningServer } from './ua-server.js';

describe('the administrative door of the stand-ins', () => {
  const accepted: string[] = [];
  const furnace = {
    id: 'furnace',
    lists: () => Promise.resolve({ trusted: [], issuers: [], rejected: [] }),
    accept: (thumbprint: string) => {
      accepted.push(thumbprint);
      return Promise.resolve(thumbprint === 'AB');
    },
  } as unknown as RunningServer;
  const base = 'http://127.77.0.1:5355';
  let door: Stoppable;
  beforeAll(async () => {
    door = await startAdminDoor([furnace], '127.77.0.1', 5355, 'token');
  });
  afterAll(() => door.stop());
  const call = async (method: string, path: string, token = 'token'): Promise<number> => {
    const answer = await fetch(`${base}${path}`, {
      method,
      headers: { authorization: `Bearer ${token}`, connection: 'close' },
    });
    await answer.arrayBuffer();
    return answer.status;
  };

  it('opens to its token only', async () => {
    expect(await call('GET', '/servers/furnace/lists', 'tokem')).toBe(401);
    expect(await call('GET', '/servers/furnace/lists', '')).toBe(401);
    expect(await call('GET', '/servers/furnace/lists')).toBe(200);
  });

  it('moves what lies there, and says of the rest that it does not', async () => {
    expect(await call('POST', '/servers/furnace/accept/AB')).toBe(200);
    expect(await call('POST', '/servers/furnace/accept/CD')).toBe(404);
    expect(accepted).toEqual(['AB', 'CD']);
  });

  it('knows nothing else', async () => {
    expect(await call('GET', '/servers/lehr/lists')).toBe(404);
    expect(await call('POST', '/servers/furnace/lists')).toBe(404);
  });
});
