import type { DoorTurns, EntryClosing, EntryFloors, EntryView, ServerAtDoors } from '@loyal-hinge/contract';
import { Site, refused } from '../../testing/site';
import { order } from '../../testing/trust-answers';

const floor = {
  policy: 'None',
  mode: 'None',
  tokens: ['Anonymous', 'UserName', 'Certificate', 'IssuedToken'],
  keyBits: 0,
} as const;
const none = { policy: 'None', mode: 'None', token: 'Anonymous' } as const;
const good = { policy: 'Basic256Sha256', mode: 'SignAndEncrypt', token: 'UserName' } as const;
const link = (id: string) => ({ id, name: `Link ${id}` });
const server = (differs: Partial<ServerAtDoors> = {}): ServerAtDoors => ({
  id: 'furnace',
  name: 'Furnace server',
  machine: 'furnace',
  zone: 'Hot End',
  seenAt: '2026-03-01T12:00:00.000Z',
  doors: [
    { ...good, cover: 'token', issued: null, weaknesses: [], links: ['a', 'b', 'c', 'd', 'e'].map(link) },
    { ...none, cover: null, issued: null, weaknesses: ['no security', 'anonymous'], links: [] },
  ],
  out: [{ ...link('x'), why: 'It has no endpoint in common with the server.' }],
  links: 6,
  ...differs,
});
const doors = (differs: Partial<EntryView> = {}): EntryView => ({
  from: 0,
  fitting: 1,
  servers: [server()],
  counts: { servers: 3, unseen: 1, weakDoors: 2, closable: 1 },
  floor,
  ...differs,
});
const closing: EntryClosing = {
  close: [{ serverId: 'furnace', server: 'Furnace server', door: none }],
  keep: [{ serverId: 'lehr', server: 'Lehr server', door: { ...good, policy: 'Basic256' }, links: [link('old')] }],
  needs: [{ says: 'Old recorder gets Basic256Sha256.', links: [link('old')] }],
  stuck: [link('stuck')],
  isShortest: false,
};
const turns = (differs: Partial<DoorTurns> = {}): DoorTurns => ({
  counts: { moves: 1, cutOff: 0, getsIn: 0 },
  turns: [
    {
      linkId: 'm',
      name: 'Link m',
      server: 'Furnace server',
      turn: 'moves',
      before: none,
      after: good,
      why: null,
      needs: [],
    },
  ],
  lines: [
    {
      change: { kind: 'close-doors', serverId: 'furnace', doors: [none] },
      server: 'Furnace server',
      linkIds: ['a'],
    },
  ],
  ...differs,
});
const answers = { entry: doors(), entryClosing: closing, doorWhatIf: turns() };

describe('the doors of the plant', () => {
  it('are told by server, with who comes in by each and who does not', async () => {
    const site = await Site.open('/entry', answers);
    expect(site.headline).toBe(
      '2 doors are weak; 1 can be closed without cutting a link off; 1 server was never seen.',
    );
    const [first, second] = site.all('tr[data-door]').map((row) => row.textContent ?? '');
    expect(first).toMatch(/Basic256Sha256.*encrypted.*user name and password.*Link a.*Link c.*and 2 more/s);
    expect(second).toMatch(/no security.*anyone may come in.*anonymous.*nobody/s);
    expect(site.text).toContain('Link x does not get in: It has no endpoint in common with the server.');
  });

  it('come with what can be closed, what can’t yet, and what that takes', async () => {
    const site = await Site.open('/entry', answers);
    expect(site.text).toContain('1 weak door can be closed now: no link needs it.');
    expect(site.text).toContain('Lehr server: Basic256 (SignAndEncrypt), user name and password needed by Link old');
    expect(site.text).toContain('Old recorder gets Basic256Sha256. For Link old.');
    expect(site.text).toContain('Link stuck has no better way in');
    expect(site.text).toContain('There may be a shorter way');
    await site.press(/Try closing them/);
    expect(site.url).toBe('/entry?unneeded=all');
    expect(site.asked('doorWhatIf')).toEqual([{ rules: [{ serverId: 'furnace', ...none, to: 'closed' }] }]);
  });

  it('are filtered by the server, and leafed through', async () => {
    const site = await Site.open('/entry?find=furnace&from=50', {
      ...answers,
      entry: doors({ from: 50, fitting: 120, servers: [server()] }),
    });
    expect(site.text).toContain('Servers 51 to 51 of 120');
    await site.press(/^Previous$/);
    expect(site.url).toBe('/entry?find=furnace');
    await site.fill(/Which servers/, 'a weak door that nobody uses');
    expect(site.url).toBe('/entry?find=furnace&only=unused');
  });

  it('say what comes first where there is nothing yet', async () => {
    const counts = { servers: 0, unseen: 0, weakDoors: 0, closable: 0 };
    const site = await Site.open('/entry', { ...answers, entry: doors({ fitting: 0, servers: [], counts }) });
    expect(site.headline).toBe('There is no server yet.');
    expect(site.text).toContain('It fills as soon as there are servers in the plant');
  });
});

describe('a what-if on doors', () => {
  const key = 'furnace~None~None~Anonymous';

  it('begins with a switch, says who moves, and becomes a work order', async () => {
    const site = await Site.open('/entry', { ...answers, proposeOrder: order(), order: order() });
    // Beside the doors, in the second of two columns.
    expect(site.all('.with-what-if > *').map(({ tagName }) => tagName)).toEqual(['DIV', 'HINGE-DOOR-WHAT-IF']);
    const [, last] = site.all('tr[data-door] input[type=checkbox]');
    last?.click();
    await site.settle();
    expect(site.url).toBe(`/entry?close=${key}`);
    expect(site.text).toContain('No link is cut off. 1 takes another door.');
    await site.press(/Propose a work order/);
    expect(site.asked('proposeOrder')).toEqual([
      {
        title: 'Change doors on Furnace server',
        lines: [
          {
            change: { kind: 'close-doors', serverId: 'furnace', doors: [none] },
            why: 'Tried out on the page Entry: no link is cut off by it.',
            linkIds: ['a'],
          },
        ],
      },
    ]);
  });

  it('names who would be cut off and the way back in, and asks before that is proposed', async () => {
    const cut = turns({
      counts: { moves: 0, cutOff: 1, getsIn: 0 },
      turns: [
        {
          linkId: 'c',
          name: 'Link c',
          server: 'Furnace server',
          turn: 'cut off',
          before: none,
          after: null,
          why: 'It has no endpoint in common with the server.',
          needs: ['Old recorder gets Basic256Sha256.'],
        },
      ],
    });
    const site = await Site.open(`/entry?close=${key}`, { ...answers, doorWhatIf: cut, proposeOrder: order() });
    expect(site.text).toContain('1 link is cut off.');
    expect(site.text).toContain('To let it in: Old recorder gets Basic256Sha256.');
    await site.press(/Propose a work order/);
    expect(site.asked('proposeOrder')).toEqual([]);
    expect(site.text).toContain('1 link would be cut off: Link c.');
    await site.press(/^Propose$/);
    expect(site.asked('proposeOrder')).toHaveLength(1);
  });

  it('closes everywhere, opens a door, and is cleared', async () => {
    const site = await Site.open('/entry', answers);
    await site.fill(/Close everywhere/, 'Basic128Rsa15');
    expect(site.url).toContain('close=~Basic128Rsa15~~');
    await site.press(/Open a door/);
    await site.press(/^Try it out$/);
    expect(site.faults).toHaveLength(1);
    await site.fill(/^Server$/, 'Furnace server');
    await site.press(/^Try it out$/);
    expect(site.asked('doorWhatIf').at(-1)).toEqual({
      rules: [
        { serverId: 'furnace', policy: 'Basic256Sha256', mode: 'SignAndEncrypt', token: 'UserName', to: 'open' },
        { serverId: null, policy: 'Basic128Rsa15', mode: null, token: null, to: 'closed' },
      ],
    });
    await site.press(/^Clear$/);
    expect(site.url).toBe('/entry');
  });

  it('says why it can’t be worked out', async () => {
    const site = await Site.open(`/entry?close=${key}`, { ...answers, doorWhatIf: refused('That is no door.', 400) });
    expect(site.one('[role=alert]').textContent).toContain('That is no door.');
  });
});

describe('what the plant accepts', () => {
  const floors: EntryFloors = {
    floor,
    exceptions: [
      {
        id: 7,
        of: 'server',
        subjectId: 'crusher',
        subject: 'Crusher server',
        floor: { ...floor, policy: 'Basic256' },
        reason: 'It is replaced in May.',
        until: '2027-05-31T00:00:00.000Z',
        givenBy: 'approver',
        givenAt: '2026-03-01T12:00:00.000Z',
        ended: null,
      },
    ],
  };
  const [exception] = floors.exceptions;

  it('is said in the headline, and saved by an approver', async () => {
    const site = await Site.open(
      '/entry/floor',
      { entryFloors: floors, putEntryFloor: { floor, waitsAs: null } },
      'approver',
    );
    expect(site.headline).toBe('The plant accepts every endpoint and every kind of user; 1 exception is in force.');
    await site.fill(/Least security policy/, 'Basic256Sha256');
    await site.fill(/Least mode/, 'encrypted (SignAndEncrypt)');
    await site.press(/^Save$/);
    expect(site.asked('putEntryFloor')).toEqual([{ ...floor, policy: 'Basic256Sha256', mode: 'SignAndEncrypt' }]);
    expect(site.told).toContain('What the plant accepts was saved.');
  });

  it('is not changed by others', async () => {
    const site = await Site.open('/entry/floor', { entryFloors: floors });
    expect(site.button(/^Save$/).disabled).toBe(true);
    expect(site.text).toContain('Only approvers can change what the plant accepts.');
  });

  it('has exceptions, with a reason and an end', async () => {
    const site = await Site.open(
      '/entry/floor',
      {
        entryFloors: floors,
        entry: doors(),
        giveException: { exception: exception ?? null, waitsAs: null },
      },
      'approver',
    );
    await site.press(/Add an exception/);
    await site.press(/^Add exception$/);
    expect(site.faults).toHaveLength(3);
    await site.fill(/^Server$/, 'Furnace server');
    await site.fill(/^Until$/, '2027-01-31');
    await site.fill(/^Reason$/, 'It is replaced in January.');
    await site.press(/^Add exception$/);
    expect(site.asked('giveException')).toMatchObject([
      { of: 'server', subjectId: 'furnace', reason: 'It is replaced in January.', floor },
    ]);
  });

  it('ends an exception after a question', async () => {
    const ended = { ...exception, ended: { at: '2026-03-02T12:00:00.000Z', by: 'approver' } };
    const site = await Site.open(
      '/entry/floor',
      { entryFloors: floors, endException: ended as (typeof floors.exceptions)[number] },
      'approver',
    );
    await site.press(/^End …$/);
    await site.press(/^End exception$/);
    expect(site.told).toContain('The exception for Crusher server has ended.');
  });
});
