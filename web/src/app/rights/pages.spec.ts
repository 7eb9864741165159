import type { RightsSnapshot, RightsView } from '@loyal-hinge/contract';
import { Site, refused } from '../../testing/site';

const snapshot = (differs: Partial<RightsSnapshot> = {}): RightsSnapshot => ({
  id: 's2',
  userName: 'collector',
  part: null,
  state: 'whole',
  nodes: 40,
  says: null,
  askedBy: 'engineer',
  askedAt: '2026-03-02T12:00:00.000Z',
  endedAt: '2026-03-02T12:00:05.000Z',
  ...differs,
});
const server = {
  id: 'lehr',
  name: 'Lehr server',
  machine: 'Lehr',
  identities: [
    { userName: null, links: [] },
    { userName: 'collector', links: ['History to Lehr'] },
  ],
  newestAt: '2026-03-02T12:00:00.000Z',
};
const other = { ...server, id: 'bath', name: 'Tin bath server', newestAt: null };
const view = (differs: Partial<RightsView> = {}): RightsView => ({
  server,
  identities: [
    { name: 'anonymous', isAnonymous: true, snapshots: [] },
    { name: 'collector', isAnonymous: false, snapshots: [snapshot()] },
  ],
  snapshots: [
    snapshot(),
    snapshot({ id: 's3', userName: null, state: 'failed', nodes: 0, says: 'The server is not reached.' }),
    snapshot({ id: 's1', askedAt: '2026-03-01T12:00:00.000Z' }),
  ],
  nodes: 12,
  groups: [
    {
      pattern: 'Lehr/Zone */Temperature',
      fitsOthers: true,
      rights: [0, 3],
      nodes: 4,
      examples: [{ nodeId: 'i=1', path: 'Lehr/Zone A/Temperature', rights: [0, 3] }],
    },
  ],
  groupCount: 3,
  gaps: [
    {
      pattern: 'Lehr/Speed',
      nodes: 1,
      example: 'Lehr/Speed',
      identity: 'collector',
      right: 'write',
      gap: 'missing',
      grade: 'grave',
      why: 'Others may write here, this user may not: UserAccessLevel does not have it.',
    },
    {
      pattern: 'Lehr/Zone */Temperature',
      nodes: 4,
      example: 'Lehr/Zone A/Temperature',
      identity: 'collector',
      right: 'write',
      gap: 'excess',
      grade: 'weak',
      why: null,
    },
  ],
  gapCounts: { missing: 1, excess: 4, anonymousWrite: 0 },
  ...differs,
});
const answers = { rightsServers: { servers: [other, server] }, rights: view() };

describe('the rights on a server', () => {
  it('say what stands out and who may do what, of the server that was looked at last', async () => {
    const site = await Site.open('/entry/rights', answers);
    expect(site.headline).toBe(
      'Lehr server: nobody may write without a name; 1 needed right is missing; 4 given rights are not needed.',
    );
    const [gap, excess, group] = site.rows();
    expect(gap?.join(' ')).toMatch(/grave.*collector.*must write, and may not.*Lehr\/Speed.*UserAccessLevel/);
    expect(excess?.join(' ')).toMatch(
      /weak.*collector.*may write, and no link needs it.*Lehr\/Zone \*\/Temperature.*4/,
    );
    expect(group?.join(' ')).toMatch(
      /Lehr\/Zone \*\/Temperature.*not all that are called so.*4.*not known.*read, write/,
    );
    expect(site.text).toContain('2 smaller groups are not shown');
    expect(site.text).toContain('The server is not reached.');
  });

  it('are looked for by words, patterns and rights, on another server', async () => {
    const site = await Site.open('/entry/rights', answers);
    await site.fill(/Words to look for/, 'Lehr/**');
    await site.fill(/^Right$/, 'write');
    expect(site.url).toBe('/entry/rights?find=Lehr%2F**&right=write');
    await site.fill(/^Server$/, 'Tin bath server');
    expect(site.url).toBe('/entry/rights?right=write&server=bath');
  });

  it('are taken of all nodes or of a part, say as whom, and can be cancelled', async () => {
    const running = snapshot({ state: 'running', endedAt: null, nodes: 0 });
    const site = await Site.open('/entry/rights', { ...answers, takeSnapshots: { snapshots: [running] } });
    await site.press(/Take a snapshot/);
    expect(site.text).toContain('It signs in as anonymous and collector in turn');
    await site.fill(/^Of a part/, 'Lehr/[9-1]');
    await site.press(/^Take snapshot$/);
    expect(site.faults[0]).toMatch(/range that is none/);
    await site.fill(/^Of a part/, 'Lehr/**');
    site.answers.rights = view({ snapshots: [running] });
    site.answers.cancelSnapshot = { done: true };
    await site.press(/^Take snapshot$/);
    expect(site.asked('takeSnapshots')).toEqual([{ part: 'Lehr/**' }]);
    expect(site.told).toContain('The snapshot has begun.');
    await site.press(/^Cancel$/);
    expect(site.asked('cancelSnapshot')).toHaveLength(1);
  });

  it('are compared with those of another day', async () => {
    const site = await Site.open('/entry/rights', {
      ...answers,
      compareSnapshots: {
        changes: [{ nodeId: 'i=1', path: 'Lehr/Speed', change: 'given', rights: 2 }],
        total: 2,
      },
    });
    const ticks = site.all('hinge-rights-snapshots input[type=checkbox]') as readonly HTMLInputElement[];
    expect(ticks.map(({ disabled }) => disabled)).toEqual([false, true, false]);
    for (const tick of [ticks[0], ticks[2]]) {
      tick?.click();
      await site.settle();
    }
    expect(site.calls.find(({ name }) => name === 'compareSnapshots')?.params).toEqual({ before: 's1', after: 's2' });
    expect(site.text).toContain('Lehr/Speed now also: write');
    expect(site.text).toContain('and 1 more');
  });

  it('forget a snapshot after a question', async () => {
    const site = await Site.open('/entry/rights', { ...answers, removeSnapshot: { done: true } });
    await site.press(/^Remove …$/);
    await site.press(/^Remove$/);
    expect(site.told).toContain('The snapshot was removed.');
  });

  it('say what comes first while nothing is known, and why they can’t be shown', async () => {
    const none = view({ nodes: 0, groups: [], groupCount: 0, gaps: [], snapshots: [] });
    const site = await Site.open('/entry/rights', { ...answers, rights: none });
    expect(site.headline).toBe('Who may do what on Lehr server is not known yet.');
    expect(site.text).toContain('A snapshot signs in as anonymous and collector in turn');
    const [identity] = none.server.identities;
    const alone = { ...none, server: { ...none.server, identities: identity ? [identity] : [] } };
    const one = await Site.open('/entry/rights', { ...answers, rights: alone });
    expect(one.text).toMatch(/A snapshot signs in as anonymous, and\s+reads/);
    const empty = await Site.open('/entry/rights', { rightsServers: { servers: [] } });
    expect(empty.text).toContain('It fills as soon as a link leads to a server.');
    const failed = await Site.open('/entry/rights', { ...answers, rights: refused('It is too much.') });
    expect(failed.one('[role=alert]').textContent).toContain('It is too much.');
  });
});

describe('who can write in the plant', () => {
  const writer = (differs: object = {}) => ({
    serverId: 'lehr',
    server: 'Lehr server',
    identity: 'technician',
    isAnonymous: false,
    pattern: 'Lehr/Speed wanted',
    nodes: 1,
    neededBy: ['Display to Lehr'],
    seenAt: '2026-03-02T12:00:05.000Z',
    ...differs,
  });
  const told = {
    writers: [
      writer({ identity: 'anonymous', isAnonymous: true, pattern: 'Filter/*', nodes: 4, neededBy: [] }),
      writer(),
    ],
    total: 2,
    accounts: 2,
    unneeded: 1,
    unnamed: 1,
    unseen: [{ serverId: 'bath', server: 'Tin bath server' }],
  };

  it('is said with what nobody needs, and of which servers nothing is known', async () => {
    const site = await Site.open('/entry/rights/writers', { rightsWriters: told });
    expect(site.headline).toBe('2 accounts can write here; some of it no link needs; some of it without a name.');
    expect(site.text).toContain('Of 1 server nothing is known, since no snapshot was taken: Tin bath server');
    expect(site.rows().map((cells) => cells.slice(0, 5))).toEqual([
      ['anonymous', 'Lehr server', 'Filter/*', '4', 'no link'],
      ['technician', 'Lehr server', 'Lehr/Speed wanted', '1', 'Display to Lehr'],
    ]);
  });

  it('counts also what is not listed', async () => {
    const more = { ...told, writers: [writer()], total: 900, accounts: 7, unneeded: 3, unnamed: 0 };
    const site = await Site.open('/entry/rights/writers', { rightsWriters: more });
    expect(site.headline).toBe('7 accounts can write here; some of it no link needs.');
  });

  it('is asked for by what the address has, and says where nobody is known', async () => {
    let wished: object = {};
    const none = (wish: object) => (
      (wished = wish),
      { writers: [], total: 0, accounts: 0, unneeded: 0, unnamed: 0, unseen: [] }
    );
    const site = await Site.open('/entry/rights/writers?find=Lehr', { rightsWriters: none });
    expect(wished).toEqual({ find: 'Lehr' });
    expect(site.headline).toBe('Nobody is known to be able to write here.');
  });
});
