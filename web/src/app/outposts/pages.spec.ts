import type { Outpost, Probe, ProbesView, Tunnel, TunnelChoices, TunnelView, TunnelsView } from '@loyal-hinge/contract';
import { Site, refused } from '../../testing/site';
import { authority, order } from '../../testing/trust-answers';
import { outpostActions, outpostsFeature } from './state';
import { bytesText, groupsOf } from './outpost-words';

const at = (minute: number): string => new Date(Date.UTC(2026, 10, 28, 10, minute)).toISOString();
const outpost = (differs: Partial<Outpost> = {}): Outpost => ({
  id: 'hot-end-listens',
  kind: 'tunnel-end',
  name: 'Hot end tunnel, listening end',
  machineId: 'furnace',
  machine: 'Furnace',
  state: 'here',
  ticketUntil: null,
  asksWithKey: null,
  thumbprint: 'A'.repeat(40),
  notAfter: at(0),
  heardAt: at(0),
  address: '10.1.0.5',
  ...differs,
});
const statistics = {
  name: 'hot-end-listens',
  state: 'joined' as const,
  peer: 'hot-end-dials',
  joinedAt: at(0),
  roundTripMs: 3.2,
  streams: { open: 2, total: 14 },
  bytes: { sent: 12_300_000, received: 900 },
  joins: 2,
  refused: {
    'unknown target': 0,
    'target does not answer': 3,
    'too many streams': 0,
    'no line': 0,
    'certificate not valid': 0,
    'peer not named': 0,
    'no certificate': 0,
    'too many connections': 0,
  },
};
const dialling = outpost({
  id: 'hot-end-dials',
  name: 'Hot end tunnel, dialling end',
  machineId: 'board',
  machine: 'Board',
});
const tunnel = (differs: Partial<Tunnel> = {}): Tunnel => ({
  id: 'hot-end',
  name: 'Hot end tunnel',
  address: '10.1.0.5',
  port: 4850,
  limits: {
    streams: 512,
    streamBytesPerSecond: null,
    bytesPerSecond: 250_000,
    idleMs: null,
    connectMs: 5000,
    silenceMs: 15_000,
    drainMs: 10_000,
  },
  ends: [
    { side: 'listens', outpost: outpost(), holds: 'it', fault: null, statistics },
    { side: 'dials', outpost: dialling, holds: 'it', fault: null, statistics },
  ],
  links: [
    {
      linkId: 'board--furnace',
      link: 'Board to Furnace',
      side: 'dials',
      entranceAddress: '10.4.0.5',
      entrancePort: 4840,
      targetAddress: '10.1.0.5',
      targetPort: 4840,
      state: 'Sound',
    },
  ],
  state: 'up',
  says: null,
  ...differs,
});
const door = { port: 4842, says: null };
const machines = [
  { id: 'furnace', name: 'Furnace', addresses: ['10.1.0.5'] },
  { id: 'board', name: 'Board', addresses: ['10.4.0.5'] },
];
const list = (differs: Partial<TunnelsView> = {}): TunnelsView => ({ door, tunnels: [tunnel()], machines, ...differs });
const one = (differs: Partial<Tunnel> = {}, more: Partial<TunnelView> = {}): TunnelView => ({
  door,
  tunnel: tunnel(differs),
  history: [
    {
      side: 'dials',
      samples: [0, 1, 2, 9].map((minute) => ({
        at: at(minute),
        state: minute === 1 ? ('waiting' as const) : ('joined' as const),
        roundTripMs: 3,
        streams: 1,
        sentPerSecond: 1000 * minute,
        receivedPerSecond: 10,
      })),
    },
    { side: 'listens', samples: [] },
  ],
  ...more,
});
const tunnelChoices: TunnelChoices = {
  machines,
  otherLinks: [
    {
      linkId: 'board--lehr',
      link: 'Board to Lehr',
      entranceAddress: '10.4.0.5',
      entrancePort: 4841,
      openPorts: 1,
    },
  ],
};
const unsigned = (differs: Partial<Outpost> = {}) => ({
  side: 'listens' as const,
  outpost: outpost({ state: 'new', thumbprint: null, notAfter: null, heardAt: null, ...differs }),
  holds: 'not-told' as const,
  fault: null,
  statistics: null,
});
const page = '/passage/tunnels/hot-end';
const authorities = { authorities: [authority({ thumbprint: 'F'.repeat(40), name: 'Plant authority' })] };

describe('the tunnels', () => {
  it('are listed with how they stand', async () => {
    const site = await Site.open('/passage/tunnels', {
      tunnels: list({ tunnels: [tunnel(), tunnel({ id: 'two', name: 'Cold end tunnel', state: 'down', says: 'x' })] }),
    });
    expect(site.headline).toBe('2 tunnels, and 1 is down.');
    expect(site.text).toContain('10.1.0.5 port 4850');
    expect(site.text).toContain('12.3 MB');
    expect(site.text).toContain('3 ms');
  });

  it('say what they are for where there is none, and why no ticket can be used', async () => {
    const site = await Site.open('/passage/tunnels', {
      tunnels: list({ tunnels: [], door: { port: null, says: 'Port 4842 of 127.0.0.1 is taken.' } }),
    });
    expect(site.headline).toBe('There is no tunnel yet.');
    expect(site.text).toContain('through one port');
    expect(site.text).toContain('Port 4842 of 127.0.0.1 is taken.');
  });
});

describe('one tunnel', () => {
  it('shows both ends, what went through, and what does not go through it yet', async () => {
    const site = await Site.open(page, { tunnelChoices, tunnel: one() });
    expect(site.headline).toBe('Hot end tunnel is up; 1 link goes through it.');
    expect(site.text).toContain('12.3 MB sent, 900 B received');
    expect(site.text).toContain('3 × target does not answer');
    expect(site.text).toContain('from Board to Furnace');
    expect(site.text).toContain('Board to Lehr');
  });

  it('is told as a whole when it is down', async () => {
    const site = await Site.open(page, {
      tunnelChoices,
      tunnel: one({
        state: 'down',
        says: 'The end on Board is silent.',
        ends: [unsigned({ state: 'away', heardAt: at(3) })],
      }),
    });
    expect(site.headline).toBe('Hot end tunnel is down. The end on Board is silent.');
    expect(site.text).toContain('is not connected to this server');
  });

  it('gives a ticket once, with the command for its machine', async () => {
    const site = await Site.open(page, { tunnelChoices, tunnel: one({ ends: [unsigned()] }) });
    await site.press(/Create a ticket/);
    await site.fill(/^This server, as reached from there/, 'hinge.works.example');
    site.answers.makeOutpostTicket = { outpost: outpost({ ticketUntil: at(30) }), ticket: 'hinge-ticket:abc' };
    await site.press(/^Create$/);
    expect(site.asked('makeOutpostTicket').at(-1)).toEqual({ address: 'hinge.works.example', validHours: 24 });
    expect(site.text).toContain('hinge-ticket:abc');
    expect(site.text).toContain('--ticket ticket.txt');
    await site.press(/^Close$/);
    expect(site.text).not.toContain('hinge-ticket:abc');
  });

  it('has a request signed after its key was shown, and forgets the passphrase', async () => {
    const asks = unsigned({ state: 'asks', asksWithKey: 'AB12'.repeat(16) });
    const site = await Site.open(page, { tunnelChoices, tunnel: one({ ends: [asks] }), authorities });
    expect(site.text).toContain('AB12 AB12 AB12');
    await site.press(/^Sign …$/);
    await site.fill(/^Passphrase of Plant authority/, 'a passphrase');
    site.answers.signOutpost = refused('The passphrase does not open the key of the authority.');
    await site.press(/^Sign$/);
    expect(site.asked('signOutpost').at(-1)).toMatchObject({ authority: 'F'.repeat(40), passphrase: 'a passphrase' });
    expect(site.text).toContain('does not open the key');
    expect(site.asked('signOutpost')).toHaveLength(1);
  });

  it('leads a link through it, and tells why it can’t', async () => {
    const site = await Site.open(page, { tunnelChoices, tunnel: one() });
    await site.press(/Use the tunnel/);
    expect(site.url).toBe(`${page}?lead=board--lehr`);
    site.answers.leadThroughTunnel = refused('Board has no address 10.4.0.9.');
    await site.fill(/^Its client dials the address/, '10.4.0.9');
    await site.press(/^Save$/);
    expect(site.asked('leadThroughTunnel').at(-1)).toEqual({
      linkId: 'board--lehr',
      entranceAddress: '10.4.0.9',
      entrancePort: 4841,
    });
    expect(site.text).toContain('Board has no address 10.4.0.9.');
  });

  it('proposes what has to be done at its places as a work order', async () => {
    const site = await Site.open(page, { tunnelChoices, tunnel: one() });
    site.answers.tunnelOrder = order();
    site.answers.order = order();
    await site.press(/Propose a work order/);
    expect(site.url).toContain('/orders/');
  });

  it('proposes how it is taken down, too, and says why where nothing is to be done', async () => {
    const site = await Site.open(page, { tunnelChoices, tunnel: one() });
    site.answers.takeDownTunnel = refused('Nothing is to be done.');
    await site.press(/Propose taking it down/);
    expect(site.text).toContain('Nothing is to be done.');
    site.answers.takeDownTunnel = order();
    site.answers.order = order();
    await site.press(/Propose taking it down/);
    expect(site.url).toContain('/orders/');
  });

  it('is changed with its limits in the units of the form', async () => {
    const site = await Site.open(page, { tunnelChoices, tunnel: one() });
    await site.press(/^Change …$/);
    await site.fill(/^Name/, 'Warm end tunnel');
    site.answers.putTunnel = { done: true };
    await site.press(/^Save$/);
    expect(site.asked('putTunnel').at(-1)).toMatchObject({
      name: 'Warm end tunnel',
      listeningMachineId: 'furnace',
      diallingMachineId: 'board',
      limits: { bytesPerSecond: 250_000, streamBytesPerSecond: null, idleMs: null },
    });
  });
});

describe('a form that was sent', () => {
  it('closes when it is done, and leaves another one open that was begun meanwhile', () => {
    const [one, other] = [outpost(), dialling];
    const wish = { authority: 'F', validDays: 1, passphrase: 'x' };
    const signed = outpostActions.done({ command: { does: 'sign', outpost: one, wish }, says: '' });
    const open = (outpostId: string, form: 'sign' | 'ticket') =>
      outpostsFeature.reducer(undefined, outpostActions.openForm({ endForm: { outpostId, form } }));
    expect(outpostsFeature.reducer(open(one.id, 'sign'), signed).endForm).toBeNull();
    expect(outpostsFeature.reducer(open(other.id, 'ticket'), signed).endForm).not.toBeNull();
    expect(outpostsFeature.reducer(open(one.id, 'ticket'), signed).endForm).not.toBeNull();
  });
});

describe('words of tunnels', () => {
  it.each([
    [0, '0 B'],
    [999, '999 B'],
    [1000, '1.0 kB'],
    [123_456, '123 kB'],
    [5_400_000_000, '5.4 GB'],
  ])('say %s bytes', (bytes, text) => {
    expect(bytesText(bytes)).toBe(text);
  });

  it('groups a key’s digits', () => {
    expect(groupsOf('ABCDEF12')).toBe('ABCD EF12');
  });
});

describe('the probes', () => {
  const probe = (differs: Partial<Outpost> = {}, more: Partial<Probe> = {}): Probe => ({
    outpost: outpost({
      id: 'probe-dmz',
      kind: 'probe',
      name: 'DMZ probe',
      machineId: 'board',
      machine: 'Board',
      ...differs,
    }),
    machines: [{ id: 'board', name: 'Board' }],
    ranges: ['10.1.0.0/16'],
    links: 4,
    ...more,
  });
  const probes = (...all: readonly Probe[]): ProbesView => ({ door, probes: [...all], machines });
  const place = '/passage/probes';

  it('are listed with where they stand, what they may dial, and what they check', async () => {
    const site = await Site.open(place, { probes: probes(probe()) });
    expect(site.headline).toBe('1 probe; 4 links are checked from there.');
    expect(site.text).toContain('10.1.0.0/16');
  });

  it('say what they are for where there is none', async () => {
    const site = await Site.open(place, { probes: probes() });
    expect(site.headline).toBe('This server checks every link itself.');
    expect(site.text).toContain('a check sees what they see');
  });

  it('show at once one that asks for its certificate, with its key', async () => {
    const asks = probe({ state: 'asks', asksWithKey: 'CD34'.repeat(16), thumbprint: null });
    const site = await Site.open(place, { probes: probes(asks), authorities });
    expect(site.headline).toBe('1 probe, and 1 asks for its certificate.');
    expect(site.text).toContain('CD34 CD34');
    await site.press(/^Sign …$/);
    expect(site.text).toContain('Passphrase of Plant authority');
  });

  it('are added, and removed after a question', async () => {
    const site = await Site.open(place, { probes: probes(probe()) });
    await site.press(/^Add a probe$/);
    await site.press(/^Save$/);
    expect(site.asked('addProbe')).toHaveLength(0);
    expect(site.faults).toContain('Choose one.');
    await site.press(/^Cancel$/);
    site.answers.removeProbe = { done: true };
    await site.press(/^Remove …$/);
    expect(site.text).toContain('This server checks its 4 links itself from then on.');
    await site.press(/^Remove$/);
    expect(site.told).toContain('DMZ probe was removed.');
  });

  it('are changed with the machines for which they stand', async () => {
    const site = await Site.open(place, { probes: probes(probe()) });
    await site.press(/^Change …$/);
    await site.fill(/^Name/, 'Yard probe');
    site.answers.putProbe = { done: true };
    await site.press(/^Save$/);
    expect(site.asked('putProbe').at(-1)).toEqual({ name: 'Yard probe', machineId: 'board', machineIds: ['board'] });
  });
});
