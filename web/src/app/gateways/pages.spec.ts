import type { Gateway, GatewayItemsView, GatewaysView, GatewayView, Outpost } from '@loyal-hinge/contract';
import { Site, refused } from '../../testing/site';
import { authority } from '../../testing/trust-answers';
import { ageText, onTheWay, valueText } from './gateway-words';

const at = (minute: number): string => new Date(Date.UTC(2026, 10, 28, 10, minute)).toISOString();
const outpost = (differs: Partial<Outpost> = {}): Outpost => ({
  id: 'works',
  kind: 'gateway',
  name: 'Works gateway',
  machineId: 'board',
  machine: 'Board',
  state: 'here',
  ticketUntil: null,
  asksWithKey: null,
  thumbprint: 'A'.repeat(40),
  notAfter: at(0),
  heardAt: at(0),
  address: '10.4.0.5',
  ...differs,
});
const gateway = (differs: Partial<Gateway> = {}): Gateway => ({
  outpost: outpost(),
  clientId: 'works-reads',
  serverId: 'works-shows',
  address: '10.4.0.5',
  port: 4860,
  classic: null,
  state: 'runs',
  says: null,
  sources: 2,
  sourcesThere: 2,
  items: 2,
  relays: 1,
  ...differs,
});
const door = { port: 4842, says: null };
const machines = [
  { id: 'furnace', name: 'Furnace', addresses: ['10.1.0.5'] },
  { id: 'board', name: 'Board', addresses: ['10.4.0.5'] },
];
const list = (...gateways: readonly Gateway[]): GatewaysView => ({ door, gateways: [...gateways], machines });
const relay = {
  id: 'speed',
  to: { linkId: 'works--lehr', path: 'Lehr/Speed' },
  from: { linkId: 'works--furnace', path: 'Furnace/Gas flow' },
  scale: {
    kind: 'ranges' as const,
    from: [4, 20] as [number, number],
    to: [0, 100] as [number, number],
    clamps: true,
  },
  deadBand: null,
  as: null,
  onBad: { kind: 'hold' as const },
  written: 3,
  says: null,
};
const source = (name: string, differs: Partial<GatewayView['sources'][number]> = {}) => ({
  linkId: `works--${name.toLowerCase()}`,
  link: `Works gateway to ${name}`,
  server: `${name} server`,
  state: 'there' as const,
  says: null,
  endpoint: '10.1.0.5:4840, Basic256Sha256 (Sign), anonymous',
  items: 1,
  changes: 12,
  events: 0,
  returns: 0,
  ...differs,
});
const one = (differs: Partial<GatewayView> = {}, more: Partial<Gateway> = {}): GatewayView => ({
  door,
  gateway: gateway(more),
  sources: [source('Furnace'), source('Lehr')],
  readers: [
    { linkId: 'q', link: 'Quality', client: 'Quality board', signsInAs: 'quality', mayWrite: false, says: null },
  ],
  places: [],
  relays: [relay],
  statistics: {
    name: 'works',
    sources: [],
    items: 2,
    shown: 40,
    withheld: 0,
    writes: { done: 0, refused: 2 },
    relays: [],
  },
  machines,
  ...differs,
});
const said = (value: number | string | null, status = 0) => ({ value, type: 'Double', status, sourceTime: 1000 });
const items = (...paths: readonly string[]): GatewayItemsView => ({
  total: paths.length,
  items: paths.map((path) => ({
    linkId: 'works--furnace',
    path,
    place: `Hot End/${path}`,
    isWritable: false,
    atSource: said(12),
    shown: said(12),
  })),
});
const page = '/passage/gateways/works';
const gatewayItems = items('Furnace/Gas flow');

describe('the gateways', () => {
  it('are listed with how they stand', async () => {
    const away = gateway({ outpost: outpost({ id: 'two', name: 'Two', state: 'away' }), state: 'away', says: 'x' });
    const site = await Site.open('/passage/gateways', { gateways: list(gateway(), away) });
    expect(site.headline).toBe('2 gateways, and 1 does not do what it shall.');
    expect(site.rows()[0]?.slice(0, 7)).toEqual([
      'Works gateway',
      'Board',
      '10.4.0.5 port 4860',
      'runs',
      '2 of 2',
      '2',
      '1',
    ]);
  });

  it('are added on a machine, with its address proposed, and a fault is told at its field', async () => {
    const site = await Site.open('/passage/gateways', { gateways: list() });
    expect(site.text).toContain('with the last value while a line is broken');
    await site.press(/^Add a gateway$/);
    await site.fill(/^Name/, 'Works gateway');
    await site.fill(/^Runs on/, 'Board');
    expect(site.filled(/^Clients dial the address/)).toBe('10.4.0.5');
    await site.fill(/^Port of its mapper/, '135');
    site.answers.addGateway = refused('“Other” listens there already.');
    await site.press(/^Save$/);
    expect(site.asked('addGateway').at(-1)).toEqual({
      name: 'Works gateway',
      machineId: 'board',
      address: '10.4.0.5',
      port: 4860,
      mapperPort: 135,
    });
    expect(site.text).toContain('“Other” listens there already.');
    expect(site.filled(/^Name/)).toBe('Works gateway');
  });
});

describe('one gateway', () => {
  it('shows what its server says beside what it shows, and that a last value is one', async () => {
    const gone = {
      ...gatewayItems,
      items: gatewayItems.items.map((item) => ({ ...item, atSource: null, shown: said(69.4, 0x4090_0000) })),
    };
    const sources = [source('Furnace', { state: 'dialling', says: 'The connection broke.' }), source('Lehr')];
    const site = await Site.open(page, { gateway: one({ sources }, { sourcesThere: 1 }), gatewayItems: gone });
    expect(site.headline).toBe('Works gateway runs; 1 of its servers is not read.');
    expect(site.text).toMatch(/is being dialled ?The connection broke\./);
    const row = site.rows().find(([path]) => path?.startsWith('Furnace/Gas flow'));
    expect(row?.slice(2, 4)).toEqual(['–', expect.stringMatching(/^69\.4 ?last value; its server is gone$/)]);
    expect(site.text).toContain('40 changes shown, 0 writes by readers, 2 writes refused');
  });

  it.each([
    [{ state: 'told' as const, says: 'x' }, 'Works gateway is being told what has changed.'],
    [
      { state: 'differs' as const, says: 'Port 4860 is taken.' },
      'Works gateway does not do what it shall. Port 4860 is taken.',
    ],
    [{ sources: 0, sourcesThere: 0 }, 'Works gateway runs, and reads no server yet.'],
    [{}, 'Works gateway runs; 2 items are shown.'],
  ])('says in one sentence how it stands: %j', async (differs, says) => {
    const site = await Site.open(page, { gateway: one({}, differs), gatewayItems });
    expect(site.headline).toBe(says);
  });

  it('goes on where items can’t be looked at, and says why', async () => {
    const site = await Site.open(page, { gateway: one(), gatewayItems: refused('Works gateway is silent.') });
    expect(site.text).toContain('Works gateway is silent.');
    expect(site.text).toContain('Quality board');
  });

  it('says what is missing before it is set up, and is given a ticket', async () => {
    const says = 'Works gateway, reading has no certificate yet. Give it one under Settings, Client certificates.';
    const fresh = outpost({ state: 'new', thumbprint: null, notAfter: null, heardAt: null });
    const site = await Site.open(page, {
      gateway: one({ sources: [], readers: [], statistics: null }, { state: 'unset', says, outpost: fresh }),
      gatewayItems: items(),
      authorities: { authorities: [authority()] },
    });
    expect(site.headline).toBe(`Works gateway is not set up yet. ${says}`);
    expect(site.text).toContain('It reads no server yet.');
    expect(site.text).toContain('Nobody may read from it yet.');
    await site.press(/Create a ticket/);
    site.answers.makeOutpostTicket = { outpost: fresh, ticket: 'hinge-ticket:abc' };
    await site.press(/^Create$/);
    expect(site.text).toContain('node gateway/bin/gateway.mjs works --ticket ticket.txt');
  });

  it('gives an item a value, and says beforehand what that would be now', async () => {
    const site = await Site.open(page, { gateway: one({ relays: [] }), gatewayItems });
    await site.press(/Give an item a value/);
    await site.fill(/^The item that needs a value is at/, 'Lehr server');
    await site.fill(/^Its path/, 'Lehr/Speed');
    await site.fill(/^Its value comes from/, 'Furnace server');
    await site.until(() => site.all('.like button').length > 0);
    await site.press(/^Furnace\/Gas flow 12$/);
    await site.fill(/^On the way/, 'one range becomes another');
    await site.fill(/^From/, '4');
    await site.fill(/^to$/, '20');
    await site.until(() => site.one('.result').textContent?.includes('would get') ?? false);
    expect(site.one('.result').textContent).toContain('Furnace/Gas flow is 12 (Double), and Lehr/Speed would get 50');
    site.answers.addRelay = { id: 'speed' };
    await site.press(/^Save$/);
    expect(site.asked('addRelay').at(-1)).toEqual({
      to: { linkId: 'works--lehr', path: 'Lehr/Speed' },
      from: { linkId: 'works--furnace', path: 'Furnace/Gas flow' },
      scale: { kind: 'ranges', from: [4, 20], to: [0, 100], clamps: true },
      deadBand: null,
      as: null,
      onBad: { kind: 'hold' },
    });
    expect(site.told).toContain('Lehr/Speed gets its value from Furnace/Gas flow from now on.');
  });

  it('does not send a number that is none, and says so at its field', async () => {
    const site = await Site.open(page, { gateway: one(), gatewayItems });
    await site.press(/^Change …$/);
    await site.go(page);
    site
      .all('td button')
      .find((button) => button.textContent?.includes('Change'))
      ?.click();
    await site.settle();
    expect(site.filled(/^Becomes/)).toBe('0');
    await site.fill(/^Becomes/, 'much');
    await site.press(/^Save$/);
    expect(site.faults).toContain('Write a number.');
    expect(site.asked('putRelay')).toHaveLength(0);
  });

  it('takes relays from a file, and says what is wrong with it', async () => {
    const site = await Site.open(page, { gateway: one(), gatewayItems });
    site.answers.importRelays = refused('row 2, factor: “x” is no number. Nothing was imported.', 400, 'invalid');
    await site.choose(/Import relays/, 'relays.csv', 'id,to\n');
    expect(site.asked('importRelays')).toEqual([{ csv: 'id,to\n' }]);
    expect(site.text).toContain('row 2, factor');
  });

  it('changes where items are shown, in their order', async () => {
    const place = (pattern: string) => ({
      linkId: 'works--furnace',
      items: pattern,
      domain: 'Hot End',
      withoutFirst: 0,
      isWritable: false,
    });
    const site = await Site.open(page, { gateway: one({ places: [place('A/*'), place('B/*')] }), gatewayItems });
    site.answers.putGatewayPlaces = { done: true };
    site
      .all('td button')
      .filter((button) => button.textContent?.trim() === 'Earlier')[1]
      ?.click();
    await site.settle();
    expect(
      site
        .asked('putGatewayPlaces')
        .at(-1)
        ?.places.map(({ items: pattern }) => pattern),
    ).toEqual(['B/*', 'A/*']);
    await site.press(/Add a place/);
    await site.fill(/^Items of/, 'Furnace server');
    await site.fill(/^Are shown under/, 'Melting');
    await site.press(/^Save$/);
    expect(site.asked('putGatewayPlaces').at(-1)?.places.at(-1)).toMatchObject({ items: '**', domain: 'Melting' });
  });
});

describe('what is said of a gateway’s values', () => {
  it('keeps texts short and numbers to their digits', () => {
    expect([
      valueText(null),
      valueText(said(null)),
      valueText(said(0.1 + 0.2)),
      valueText(said('x'.repeat(99))),
    ]).toEqual(['–', '–', '0.3', `${'x'.repeat(60)}…`]);
    expect([ageText(said(1), 1500), ageText(said(1), 6000), ageText({ ...said(1), sourceTime: null }, 1)]).toEqual([
      'under 1 s',
      '5 s',
      'not known',
    ]);
    expect(onTheWay({ ...relay, scale: null })).toBe('as it is');
    expect(
      onTheWay({
        ...relay,
        scale: { kind: 'linear', factor: 2, offset: 3 },
        as: 'Int16',
        deadBand: { kind: 'percent', by: 1 },
        onBad: { kind: 'value', value: 0 },
      }),
    ).toBe('times 2, plus 3; as Int16; changes from 1 % on; 0 while it is bad');
  });
});
