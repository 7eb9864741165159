import { rightBit } from '@loyal-hinge/core';
import type { RightsView } from '@loyal-hinge/contract';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { found } from '../testing/found.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const own = ownServer('rights');
let engineer: Caller;
let viewer: Caller;
let url: string;
beforeAll(async () => {
  await own.setUp();
  ({ url } = await own.serve());
  [engineer, viewer] = [await signIn('engineer', url, ownPassword), await signIn('viewer', url, ownPassword)];
});
afterAll(() => own.remove());

const [read, write] = [rightBit('read'), rightBit('write')];
const isOver = ({ snapshots }: RightsView): boolean =>
  snapshots.length > 0 && snapshots.every(({ endedAt }) => endedAt !== null);
const rightsOf = (serverId: string): Promise<RightsView> => engineer.call('rights', { serverId });
async function taken(serverId: string, part = ''): Promise<RightsView> {
  await engineer.call('takeSnapshots', { serverId }, { part });
  return until(() => rightsOf(serverId), isOver);
}

describe('a snapshot of rights', () => {
  it('is taken as everybody who signs in at a server, and says who may do what with which nodes', async () => {
    const view = await taken('lehr-server');
    expect(view.identities.map(({ name }) => name)).toEqual(
      view.server.identities.map(({ userName }) => userName ?? 'anonymous'),
    );
    expect(view.identities.find(({ name }) => name === 'collector')?.snapshots).toMatchObject([
      { state: 'whole', part: null },
    ]);
    for (const { state, says } of view.snapshots) if (state !== 'whole') expect(says).toMatch(/\.$/);
    expect(view.nodes).toBeGreaterThan(6);
    const written = view.groups.filter(({ rights }) => rights.some((bits) => (bits & write) !== 0));
    expect(written.flatMap(({ examples }) => examples.map(({ path }) => path))).toContain('Lehr/Roller speed/EURange');
    expect(view.groups.reduce((sum, { nodes }) => sum + nodes, 0)).toBe(view.nodes);
  });

  it('is looked through by pattern and by right, and saved node by node', async () => {
    const asked = async (query: string): Promise<RightsView> =>
      (await (await fetch(`${url}/api/rights/lehr-server?${query}`, engineer)).json()) as RightsView;
    const named = ({ groups }: RightsView): readonly string[] => groups.map(({ pattern }) => pattern);
    expect(named(await asked('find=Lehr/Zone%20[B-C]/**'))).toContain('Lehr/Zone */Temperature');
    expect(named(await asked('find=roller%20wanted'))).toContain('Lehr/Roller speed wanted');
    const writable = await asked('right=write');
    expect(writable.groups.flatMap(({ examples }) => examples.map(({ path }) => path.split('/').at(-1)))).not.toContain(
      'Temperature',
    );
    const csv = await (await fetch(`${url}/api/rights/lehr-server/nodes.csv`, engineer)).text();
    expect(csv.split('\n')[0]).toMatch(/^path,node id,/);
    expect(csv).toMatch(/Lehr\/Roller speed\/EURange,[^\n]*read; write/);
  });

  it('is taken of a part, which is laid over what is known of all nodes', async () => {
    const before = await rightsOf('lehr-server');
    const view = await taken('lehr-server', 'Lehr/Zone [A-B]/**');
    const collector = view.identities.find(({ name }) => name === 'collector');
    expect(collector?.snapshots).toMatchObject([
      { state: 'whole', part: null },
      { state: 'whole', part: 'Lehr/Zone [A-B]/**' },
    ]);
    const [whole, part] = collector?.snapshots ?? [];
    expect(part?.nodes).toBeGreaterThan(0);
    expect(part?.nodes).toBeLessThan(whole?.nodes ?? 0);
    const told = ({ nodes, groups }: RightsView) => [
      nodes,
      groups.map(({ pattern, nodes: count }) => [pattern, count]),
    ];
    expect(told(view)).toEqual(told(before));
    // Only what both looked at is compared: nothing has changed there, and nothing is gone.
    const ids = { before: whole?.id ?? '', after: part?.id ?? '' };
    expect(await engineer.call('compareSnapshots', ids)).toEqual({ changes: [], total: 0 });
    const wrong = await engineer.refused('takeSnapshots', { serverId: 'lehr-server' }, { part: 'Lehr/[9-1]' });
    expect(wrong).toMatchObject({ status: 400, faults: [{ place: 'part' }] });
  });

  it('tells what paths and patterns stand for, as the one who is to use them or as somebody else', async () => {
    const paths = ['Lehr/Zone [A-B]/Temperature', 'Lehr/Zone Z/Temperature'];
    const told = await viewer.call('rightsMatches', { serverId: 'lehr-server' }, { userName: 'collector', paths });
    expect(told).toMatchObject({
      as: 'collector',
      paths: [
        { isPattern: true, count: 2, examples: ['Lehr/Zone A/Temperature', 'Lehr/Zone B/Temperature'] },
        { isPattern: false, count: 0, examples: [] },
      ],
    });
    const other = await viewer.call('rightsMatches', { serverId: 'lehr-server' }, { userName: 'nobody', paths });
    expect(other.as).not.toBe('nobody');
    const none = await viewer.call('rightsMatches', { serverId: 'furnace-server' }, { userName: '', paths });
    expect(none).toMatchObject({ seenAt: null, paths: [{ count: 0 }, { count: 0 }] });
  });

  it('shows what nobody without a name should be able to do', async () => {
    await found(engineer, 'energy--dust-filter');
    const view = await taken('dust-filter-server');
    // Where one came to nothing, it says why.
    expect(view.snapshots.map(({ state, says }) => [state, says])).toEqual([['whole', null]]);
    expect(view.identities).toMatchObject([{ name: 'anonymous', isAnonymous: true, snapshots: [{ state: 'whole' }] }]);
    const [group] = view.groups;
    expect((group?.rights[0] ?? 0) & read).toBe(read);
    // The stand-in lets anybody write the range of a value, and no link needs that.
    expect(view.gaps[0]).toMatchObject({ identity: 'anonymous', right: 'write', gap: 'excess', grade: 'grave' });
    expect(view.gaps[0]?.pattern).toMatch(/EURange$/);
  });

  it('says who can write in the plant, what no link needs first', async () => {
    const told = await engineer.call('rightsWriters');
    const [first] = told.writers;
    expect(first).toMatchObject({ server: 'Dust filter server', isAnonymous: true, neededBy: [] });
    expect(told.unneeded).toBe(told.writers.filter(({ neededBy }) => neededBy.length === 0).length);
    expect(told.unnamed).toBe(told.writers.filter(({ isAnonymous }) => isAnonymous).length);
    expect(told.accounts).toBe(new Set(told.writers.map(({ server, identity }) => server + identity)).size);
    const asked = await fetch(`${url}/api/rights-writers?find=${encodeURIComponent('Lehr/*wanted')}`, engineer);
    const { writers } = (await asked.json()) as typeof told;
    expect(writers).toMatchObject([
      { identity: 'technician', pattern: 'Lehr/Roller speed wanted', nodes: 1, neededBy: ['Line display to Lehr'] },
    ]);
    expect(told.unseen.map(({ serverId }) => serverId)).toContain('furnace-server');
    expect(told.unseen.map(({ serverId }) => serverId)).not.toContain('lehr-server');
  });

  it('puts who can write into a PDF, of the plant, of one server, or of what fits a pattern', async () => {
    for (const query of ['', '?server=lehr-server', `?find=${encodeURIComponent('Lehr/**')}`]) {
      const answer = await fetch(`${url}/api/rights-writers.pdf${query}`, { headers: viewer.headers });
      expect([answer.status, answer.headers.get('content-type')]).toEqual([200, 'application/pdf']);
      const bytes = Buffer.from(await answer.arrayBuffer());
      expect(bytes.subarray(0, 5).toString()).toBe('%PDF-');
    }
    const nowhere = await fetch(`${url}/api/rights-writers.pdf?server=nowhere`, { headers: viewer.headers });
    expect(nowhere.status).toBe(404);
  });

  it('says why somebody could not be asked', async () => {
    const view = await taken('weighbridge-server');
    expect(view.snapshots[0]).toMatchObject({ state: 'failed', nodes: 0 });
    expect(view.snapshots[0]?.says).toMatch(/\.$/);
    expect(view.identities[0]?.snapshots).toEqual([]);
  });

  it('is compared with the one before, cancelled, removed, and taken by engineers only', async () => {
    const { snapshots } = await taken('lehr-server');
    const [after] = snapshots;
    const before = snapshots.find(({ userName, id }) => userName === after?.userName && id !== after?.id);
    const ids = { before: before?.id ?? '', after: after?.id ?? '' };
    expect(await engineer.call('compareSnapshots', ids)).toEqual({ changes: [], total: 0 });
    expect(await viewer.refused('takeSnapshots', { serverId: 'lehr-server' }, { part: '' })).toMatchObject({
      status: 403,
    });
    expect(await engineer.refused('takeSnapshots', { serverId: 'nowhere' }, { part: '' })).toMatchObject({
      status: 404,
    });
    expect(await engineer.refused('cancelSnapshot', { id: ids.after }, {})).toMatchObject({ status: 409 });
    await engineer.call('removeSnapshot', { id: ids.before });
    expect(await engineer.refused('compareSnapshots', ids)).toMatchObject({ status: 404 });
    const [begun] = (await engineer.call('takeSnapshots', { serverId: 'lehr-server' }, { part: '' })).snapshots;
    expect(await engineer.refused('takeSnapshots', { serverId: 'lehr-server' }, { part: '' })).toMatchObject({
      status: 409,
    });
    await engineer.call('cancelSnapshot', { id: begun?.id ?? '' }, {});
    const ended = await until(() => rightsOf('lehr-server'), isOver);
    expect(ended.snapshots.find(({ id }) => id === begun?.id)?.state).toMatch(/^(cancelled|whole)$/);
  });
});
