import { linkInPlant } from '../plant/plant';
import type { LinkInPlant, Machine, NeededItem, Plant } from '../plant/plant';
import { withEdit } from './changed-rules';
import { crossingsWithoutConduit } from './conduits';
import { judgeWay } from './judge-way';
import type { WayVerdict } from './judge-way';
import { flowsOfOpening, neededOpenings, openingToDevice, openingsToRedundant, portCount } from './openings';
import type { Opening } from './openings';
import { readRuleSet } from './read-rule-set';
import type { RuleSet } from './rule-set';
import { sayFlows } from './say-flows';
import { rulesToAdd } from './suggested-rules';
import { wayBetween } from './way';
import type { PassagePlan } from './way';
import type { TunnelledWay } from '../tunnels/tunnelled';
import { worthOfRules } from './worth';

const zones = [
  { id: 'hot-end', name: 'Hot End' },
  { id: 'control', name: 'Control Room' },
  { id: 'dmz', name: 'Plant DMZ' },
  { id: 'office', name: 'Works Office' },
];
const plan: PassagePlan = {
  zones,
  devices: [
    {
      id: 'inner',
      name: 'Inner firewall',
      machineId: null,
      interfaces: [
        { name: 'hot0', zoneId: 'hot-end' },
        { name: 'ctl0', zoneId: 'control' },
        { name: 'dmz0', zoneId: 'dmz' },
      ],
    },
    {
      id: 'outer',
      name: 'Outer firewall',
      machineId: null,
      interfaces: [
        { name: 'in', zoneId: 'dmz' },
        { name: 'out', zoneId: 'office' },
      ],
    },
    { id: 'host', name: 'Furnace’s own', machineId: 'furnace', interfaces: [] },
  ],
  conduits: [
    { id: 'c', name: 'Office to Hot End', fromZoneId: 'office', toZoneId: 'hot-end', deviceIds: ['outer', 'inner'] },
  ],
};
const rules = (text: string): RuleSet => {
  const read = readRuleSet(text, 'auto');
  if (!read.ok) throw new Error(read.says);
  return read.ruleSet;
};
const nft = (body: string, more = ''): RuleSet =>
  rules(
    `table inet f {\n${more}\n chain forward {\n  type filter hook forward priority filter; policy drop;\n  ${body.split(';').join('\n  ')}\n }\n}`,
  );
const standing = (id: string, zoneId: string, address: string) => ({
  id,
  zoneId,
  name: id,
  description: '',
  hostNames: [],
  addresses: [address],
});
const opening: Opening = {
  purpose: 'endpoint',
  opens: 'client',
  between: { from: standing('board', 'office', '10.4.0.5'), to: standing('furnace', 'hot-end', '10.1.0.7') },
  source: ['10.4.0.5'],
  destination: ['10.1.0.7'],
  protocol: 'tcp',
  ports: [{ from: 4840, to: 4841 }],
};
const flows = (given: Opening = opening) => {
  const region = flowsOfOpening(given);
  if (!region) throw new Error('no addresses');
  return region;
};
const office = { id: 'board', zoneId: 'office' };
const furnace = { id: 'furnace', zoneId: 'hot-end' };
const way = wayBetween(plan, office, furnace);
const verdictOf = (sets: Readonly<Record<string, RuleSet>>): WayVerdict =>
  judgeWay(way, flows(), (id) => sets[id] ?? null);
const windows = rules(
  'Windows Registry Editor Version 5.00\r\n\r\n[HKEY_LOCAL_MACHINE\\SYSTEM\\CurrentControlSet\\Services\\SharedAccess\\Parameters\\FirewallPolicy\\FirewallRules]\r\n"a"="v2.31|Action=Allow|Active=TRUE|Dir=In|Protocol=6|LPort=4840|RA4=10.4.0.0/255.255.0.0|Name=OPC|"\r\n',
);

describe('The way from one machine to another', () => {
  it('goes over the firewalls between their zones, and the machine’s own', () => {
    expect(way.hops.map(({ device, hook, in: from, out }) => [device.id, hook, from, out])).toEqual([
      ['outer', 'forward', 'out', 'in'],
      ['inner', 'forward', 'dmz0', 'hot0'],
      ['host', 'input', '', ''],
    ]);
    expect(way.zoneIds).toEqual(['office', 'dmz', 'hot-end']);
    expect(way.conduit?.id).toBe('c');
  });

  it('has no firewall between machines of one zone but their own', () => {
    expect(wayBetween(plan, { id: 'other', zoneId: 'hot-end' }, furnace).hops.map(({ device }) => device.id)).toEqual([
      'host',
    ]);
    expect(wayBetween(plan, furnace, furnace).hops).toEqual([]);
  });

  it('is not known where no firewall joins the zones', () => {
    expect(wayBetween({ ...plan, devices: [] }, office, furnace)).toMatchObject({ isJoined: false, hops: [] });
  });

  it('stops at the first firewall that lets nothing through', () => {
    const told = verdictOf({ outer: nft('accept'), inner: nft('tcp dport 22 accept'), host: windows });
    expect(told.verdict).toBe('drop');
    expect(told.stopsAt?.hop.device.id).toBe('inner');
    expect(told.hops).toHaveLength(2);
  });

  it('is judged behind a translation by what it leads to', () => {
    const translating =
      'chain pre {\n type nat hook prerouting priority dstnat; policy accept;\n ip daddr 192.0.2.1 tcp dport 4841 dnat ip to 10.1.0.7:4840\n }';
    const asked = flows({ ...opening, destination: ['192.0.2.1'], ports: [{ from: 4841, to: 4842 }] });
    const told = judgeWay(
      way,
      asked,
      (id) =>
        ({
          outer: nft('ip daddr 10.1.0.7 accept', translating),
          inner: nft('ip daddr 10.1.0.7 tcp dport 4840 accept; ct state established accept'),
          host: windows,
        })[id] ?? null,
    );
    expect(told.verdict).toBe('accept');
    expect(told.hops[0]?.translated).toBe('10.1.0.7:4840');
  });

  it('lets nothing through where answers are dropped, and asks no other rule of who was let in', () => {
    const oneWay = nft('ip saddr 10.4.0.5 accept');
    const told = verdictOf({ outer: nft('accept'), inner: oneWay, host: windows });
    expect(told).toMatchObject({ verdict: 'drop', stopsAt: { isAnswer: true, hop: { device: { id: 'inner' } } } });
    expect(told.stopsAt && rulesToAdd(oneWay, told.stopsAt, 'board')).toBeNull();
    const both = nft('ip saddr 10.4.0.5 accept; ct state established accept');
    expect(verdictOf({ outer: nft('accept'), inner: both, host: windows }).verdict).toBe('accept');
  });

  it('is not told where rules are missing, and unknown where they can’t be understood', () => {
    expect(verdictOf({ outer: nft('accept'), host: windows }).verdict).toBe('not-told');
    expect(verdictOf({ outer: nft('accept'), inner: nft('frobnicate'), host: windows })).toMatchObject({
      verdict: 'unknown',
      stopsAt: { rule: { index: 0 } },
    });
  });
});

describe('The smallest rule that lets a link through', () => {
  it.each([
    ['nft', nft('tcp dport 22 accept; ct state established accept')],
    ['nft', nft('ip saddr 10.4.0.0/16 drop; accept')],
    [
      'iptables',
      rules(
        '*filter\n:INPUT ACCEPT [0:0]\n:FORWARD DROP [0:0]\n:OUTPUT ACCEPT [0:0]\n-A FORWARD -s 10.4.0.0/16 -j REJECT\n-A FORWARD -m conntrack --ctstate ESTABLISHED -j ACCEPT\nCOMMIT\n',
      ),
    ],
    ['list', rules('{"passageRules": 1, "rules": [{"action": "drop", "source": "10.4.0.0/16"}]}')],
  ])('of %s turns it on paper, and lets nothing else through', (_, inner) => {
    const before = verdictOf({ outer: nft('accept'), inner, host: windows });
    const [change, ...more] = (before.stopsAt && rulesToAdd(inner, before.stopsAt, 'Board to Furnace')) ?? [];
    expect(more).toEqual([]);
    const changed = change ? withEdit(inner, change.edit) : null;
    expect(verdictOf({ outer: nft('accept'), inner: changed ?? inner, host: windows }).verdict).toBe('accept');
    const neighbour = flows({ ...opening, source: ['10.4.0.6'] });
    expect(
      judgeWay(way, neighbour, (id) => ({ outer: nft('accept'), inner: changed ?? inner, host: windows })[id] ?? null)
        .stopsAt?.hop.device.id,
    ).toBe('inner');
  });

  it('is one behind a translation for where that leads', () => {
    const inner = nft(
      'tcp dport 22 accept',
      ' chain pre {\n  type nat hook prerouting priority dstnat; policy accept;\n  ip daddr 10.1.0.7 tcp dport 4840 dnat ip to 10.1.0.8:4850\n }',
    );
    const rules = { outer: nft('accept'), inner, host: windows };
    const { stopsAt } = verdictOf(rules);
    const [change, ...more] = (stopsAt && rulesToAdd(inner, stopsAt, 'board')) ?? [];
    expect(more).toEqual([]);
    expect(change?.edit).toMatchObject({
      text: 'ip saddr 10.4.0.5 ip daddr 10.1.0.8 tcp dport 4850 accept comment "board"',
    });
    const changed = change ? withEdit(inner, change.edit) : null;
    expect(stopsAt?.hop.device.id).toBe('inner');
    expect(verdictOf({ ...rules, inner: changed ?? inner }).stopsAt?.hop.device.id).toBe('host');
  });

  it('says what to type and how to go back', () => {
    const inner = nft('ip saddr 10.4.0.0/16 drop; accept');
    const { stopsAt } = verdictOf({ outer: nft('accept'), inner, host: windows });
    const [change] = (stopsAt && rulesToAdd(inner, stopsAt, 'board')) ?? [];
    expect(change?.commands).toEqual([
      'nft \'insert rule inet f forward index 0 ip saddr 10.4.0.5 ip daddr 10.1.0.7 tcp dport 4840 accept comment "board"\'',
    ]);
    expect(change?.undo[0]).toContain('nft delete rule inet f forward handle');
  });

  it('is refused on paper where it is no rule that can be understood', () => {
    const at = { table: 'filter', chain: 'FORWARD', index: 0 };
    const set = rules(
      '*filter\n:INPUT ACCEPT [0:0]\n:FORWARD DROP [0:0]\n:OUTPUT ACCEPT [0:0]\n-A FORWARD -j ACCEPT\nCOMMIT\n',
    );
    expect(withEdit(set, { kind: 'replace', at, text: 'nonsense' })).toBeNull();
    expect(withEdit(set, { kind: 'replace', at, text: '-A FORWARD -p tcp -j DROP' })).not.toBeNull();
    expect(
      withEdit(nft('accept'), { kind: 'add', at: { table: 'f', chain: 'forward', index: 0 }, text: 'nonsense' }),
    ).toBeNull();
  });

  it('is none where Windows blocks by a rule', () => {
    const blocked = rules(
      'Windows Registry Editor Version 5.00\r\n\r\n[HKEY_LOCAL_MACHINE\\SYSTEM\\CurrentControlSet\\Services\\SharedAccess\\Parameters\\FirewallPolicy\\FirewallRules]\r\n"a"="v2.31|Action=Block|Active=TRUE|Dir=In|Name=none|"\r\n',
    );
    const { stopsAt } = verdictOf({ outer: nft('accept'), inner: nft('accept'), host: blocked });
    expect(stopsAt && rulesToAdd(blocked, stopsAt, 'board')).toBeNull();
  });
});

describe('What a rule is worth', () => {
  const needed = [{ linkId: 'board--furnace', hook: 'forward' as const, flows: [flows()] }];
  const worths = (ruleSet: RuleSet) => worthOfRules(ruleSet, needed).map(({ rule, worth }) => [rule.index, worth]);

  it('is told by what it decides and who needs it', () => {
    const set = nft(
      'ct state established accept; ip saddr 10.4.0.0/16 ip daddr 10.1.0.7 tcp dport 4840 accept; tcp dport 4840 ip saddr 10.4.0.0/24 drop; ip saddr 10.4.0.5 ip daddr 10.1.0.7 tcp dport 4840 accept; udp dport 53 accept; ip saddr 10.9.0.0/16 drop; counter; tcp dport 23 drop',
    );
    expect(worths(set)).toEqual([
      [0, 'silent'],
      [1, 'too-wide'],
      [2, 'redundant'],
      [3, 'shadowed'],
      [4, 'unneeded'],
      [5, 'redundant'],
      [6, 'silent'],
      [7, 'redundant'],
    ]);
    expect(worths(nft('limit rate 5/second accept; ip saddr 10.4.0.0/16 drop; accept'))).toEqual([
      [0, 'not-told'],
      [1, 'stops'],
      [2, 'unneeded'],
    ]);
  });

  it('says exactly what a wide one lets through that nobody needs', () => {
    const [worth] = worthOfRules(
      nft('ip saddr 10.4.0.4/31 ip daddr 10.1.0.7 tcp sport 1024-65535 tcp dport 4840 accept'),
      needed,
    );
    expect(worth).toMatchObject({ worth: 'too-wide', links: ['board--furnace'] });
    expect(sayFlows(worth?.unneeded ?? [])).toEqual(['10.4.0.4 to 10.1.0.7, TCP port 4840']);
  });

  it('names the rules that stand before one that never decides', () => {
    const [, second] = worthOfRules(
      nft('ip saddr 10.0.0.0/8 tcp dport 4840 accept; ip saddr 10.4.0.0/16 tcp dport 4840 accept'),
      needed,
    );
    expect(second?.shadowedBy.map(({ index }) => index)).toEqual([0]);
  });

  it('counts a rule in a chain that others lead to', () => {
    const side = 'chain side {\n ip saddr 10.4.0.5 ip daddr 10.1.0.7 tcp sport 1024-65535 tcp dport 4840 accept\n }';
    expect(
      worthOfRules(nft('tcp dport 4840 jump side', side), needed).map(({ chain, worth }) => [chain.name, worth]),
    ).toEqual([
      ['side', 'used'],
      ['forward', 'silent'],
    ]);
  });
});

describe('A rule that contradicts a conduit', () => {
  const machines = [
    { zoneId: 'control', addresses: ['10.2.0.5'] },
    { zoneId: 'hot-end', addresses: ['10.1.0.7'] },
    { zoneId: 'dmz', addresses: ['10.3.0.9'] },
  ];
  const [inner] = plan.devices;
  const crossings = (text: string, conduits: PassagePlan['conduits']) => {
    const [worth] = worthOfRules(nft(text), needed);
    return inner ? crossingsWithoutConduit({ ...plan, conduits }, inner, machines, worth?.letsThrough ?? []) : [];
  };
  const allowed = { id: 'x', name: 'x', fromZoneId: 'control', toZoneId: 'hot-end', deviceIds: ['inner'] };
  const needed = [{ linkId: 'board--furnace', hook: 'forward' as const, flows: [flows()] }];

  it('is one that lets a zone open connections to another without one', () => {
    expect(crossings('iifname "ctl0" tcp dport 4840 accept', [allowed])).toEqual([
      { fromZoneId: 'control', toZoneId: 'dmz' },
    ]);
    expect(crossings('iifname "ctl0" ip daddr 10.1.0.0/16 accept', [allowed])).toEqual([]);
    expect(crossings('ip saddr 10.1.0.7 ip daddr 10.2.0.5 accept', [allowed])).toEqual([
      { fromZoneId: 'hot-end', toZoneId: 'control' },
    ]);
  });

  it('is none where the plant has no conduits', () => {
    expect(crossings('accept', [])).toEqual([]);
  });
});

describe('The openings that a link needs', () => {
  const subject = (kind: 'ua' | 'classic', needs: readonly NeededItem[]): LinkInPlant => {
    const machines = ['board', 'furnace'].map((id, index) => ({
      id,
      zoneId: 'z',
      name: id,
      description: '',
      hostNames: [id],
      addresses: [`10.${4 - 3 * index}.0.5`],
    }));
    const plant: Plant = {
      name: 'p',
      zones: [{ id: 'z', name: 'Z', order: 0 }],
      machines,
      applications: [
        {
          kind: 'client',
          id: 'c',
          machineId: 'board',
          name: 'c',
          applicationUri: '',
          securityModes: [],
          securityPolicies: [],
        },
        { kind: 'server', id: 's', machineId: 'furnace', name: 's', applicationUri: '', ports: [] },
      ],
      links: [
        {
          id: 'l',
          kind,
          name: 'l',
          clientId: 'c',
          serverId: 's',
          endpointUrl: kind === 'ua' ? 'opc.tcp://furnace:4841' : 'classic://furnace/Plant.Server',
          pinnedAddress: null,
          chosenEndpoint: null,
          needs,
          identity: { kind: 'anonymous' },
          floor: 'any',
          staleAfterMs: 1000,
        },
      ],
    };
    const found = linkInPlant(plant, 'l');
    if (!('link' in found)) throw new Error(found.says);
    return found;
  };
  const told = (openings: readonly Opening[]) =>
    openings.map(({ purpose, source, destination, ports }) => [purpose, source[0], destination[0], portCount(ports)]);

  it('are one port over UA', () => {
    expect(told(neededOpenings(subject('ua', []), [], () => null))).toEqual([['endpoint', '10.4.0.5', '10.1.0.5', 1]]);
  });

  it('are many over classic OPC, and the same back where changes are told', () => {
    const watched = subject('classic', [{ path: 'A', uses: ['watch'] }]);
    expect(told(neededOpenings(watched, [], (id) => (id === 'furnace' ? ['5000-5015'] : null)))).toEqual([
      ['mapper', '10.4.0.5', '10.1.0.5', 1],
      ['objects', '10.4.0.5', '10.1.0.5', 16],
      ['callback-mapper', '10.1.0.5', '10.4.0.5', 1],
      ['callback-objects', '10.1.0.5', '10.4.0.5', 16_384],
    ]);
    expect(neededOpenings(subject('classic', [{ path: 'A', uses: ['read'] }]), [], () => null)).toHaveLength(2);
  });

  it('are the ports of the servers that stand in, too, on machines of their own', () => {
    const { clientMachine, ...more } = subject('ua', []);
    const place = (machine: Machine, ...ports: number[]) => ({ applicationUri: 'urn:o', name: 'O', machine, ports });
    const others = [
      place(standing('other', 'z', '10.1.0.6'), 4840, 4843),
      place(standing('portless', 'z', '10.1.0.7')),
      place(clientMachine, 4840),
    ];
    expect(told(openingsToRedundant({ clientMachine, ...more }, others))).toEqual([
      ['redundant', '10.4.0.5', '10.1.0.6', 2],
    ]);
  });

  it('are one port from a server to a device behind it', () => {
    const [from, to] = [standing('data', 'z', '10.1.0.6'), standing('weigher', 'y', '10.2.0.7')];
    expect(told([openingToDevice(from, to, 502)])).toEqual([['device', '10.1.0.6', '10.2.0.7', 1]]);
  });

  it('are one port between the ends of a tunnel, and what lies before and behind them', () => {
    const tunnelled = subject('ua', []);
    const { clientMachine: board, serverMachine: furnace } = tunnelled;
    const gate = standing('gate', 'z', '10.1.0.9');
    const way = (listens: Machine, side: 'listens' | 'dials', dials: Machine): TunnelledWay => ({
      tunnel: { id: 't', name: 'T', address: listens.addresses[0] ?? '', port: 48_500, machines: { listens, dials } },
      side,
      entrance: { address: '10.4.0.5', port: 4841 },
      target: { address: '10.1.0.5', port: 4841 },
    });
    const through = (tunnel: TunnelledWay) =>
      neededOpenings(tunnelled, [], () => null, tunnel).map(({ purpose, opens, source, destination }) => [
        purpose,
        opens,
        source[0],
        destination[0],
      ]);
    expect(through(way(furnace, 'dials', board))).toEqual([['tunnel', 'client', '10.4.0.5', '10.1.0.5']]);
    expect(through(way(board, 'listens', gate))).toEqual([
      ['tunnel', 'server', '10.1.0.9', '10.4.0.5'],
      ['endpoint', 'client', '10.1.0.9', '10.1.0.5'],
    ]);
  });
});
