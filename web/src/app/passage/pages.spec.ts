import type { Firewall, FirewallRule, FirewallView, LinkPassage, PassageView } from '@loyal-hinge/contract';
import { Site, refused } from '../../testing/site';
import { order } from '../../testing/trust-answers';
import { layoutOf, wayOf } from './map-layout';

const at = '2026-03-02T12:00:00.000Z';
const change = {
  kind: 'add-rules' as const,
  firewallId: 'inner',
  what: 'Board to Furnace, the server’s endpoint',
  hook: 'forward' as const,
  in: 'ctl0',
  out: 'hot0',
  table: 'plant',
  chain: 'forward',
  before: null,
  rules: ['ip saddr 10.4.0.5 ip daddr 10.1.0.7 tcp dport 4840 accept'],
  commands: ['nft add rule inet plant forward …'],
  undo: ['nft delete rule inet plant forward handle 7'],
};
const stopping = {
  id: 'inner',
  name: 'Inner firewall',
  verdict: 'drop' as const,
  rule: null,
  why: null,
  translated: null,
  isAnswer: false,
  change,
};
const passage = (differs: Partial<LinkPassage> = {}): LinkPassage => ({
  linkId: 'board--furnace',
  link: 'Board to Furnace',
  kind: 'ua',
  clientMachine: 'Board',
  serverMachine: 'Furnace',
  zoneIds: ['control', 'hot'],
  isJoined: true,
  openings: [
    {
      purpose: 'endpoint',
      opens: 'client',
      between: { from: 'Board', to: 'Furnace', zoneIds: ['control', 'hot'] },
      from: ['10.4.0.5'],
      to: ['10.1.0.7'],
      protocol: 'tcp',
      ports: ['4840'],
      portCount: 1,
      verdict: 'drop',
      conduitId: 'c',
      firewalls: [stopping],
    },
  ],
  ...differs,
});
const through = passage({
  linkId: 'board--lehr',
  link: 'Board to Lehr',
  openings: passage().openings.map((opening) => ({
    ...opening,
    verdict: 'accept' as const,
    firewalls: [{ ...stopping, verdict: 'accept' as const, change: null }],
  })),
});
const firewall = (differs: Partial<Firewall> = {}): Firewall => ({
  id: 'inner',
  name: 'Inner firewall',
  machineId: null,
  machine: null,
  interfaces: [
    { name: 'hot0', zoneId: 'hot' },
    { name: 'ctl0', zoneId: 'control' },
  ],
  rules: { id: 3, takenAt: at, takenBy: 'engineer', file: 'inner.nft', format: 'nft', rules: 2 },
  links: 2,
  stopped: 1,
  ...differs,
});
const view = (differs: Partial<PassageView> = {}): PassageView => ({
  zones: [
    { id: 'hot', name: 'Hot End', targetLevel: 3 },
    { id: 'control', name: 'Control Room', targetLevel: null },
  ],
  machines: [
    { id: 'furnace', name: 'Furnace', zoneId: 'hot' },
    { id: 'board', name: 'Board', zoneId: 'control' },
  ],
  firewalls: [firewall()],
  conduits: [
    {
      id: 'c',
      name: 'Control to Hot End',
      fromZoneId: 'control',
      toZoneId: 'hot',
      firewallIds: ['inner'],
      targetLevel: 2,
    },
  ],
  services: [],
  links: [passage(), through],
  ...differs,
});
const rule = (index: number, differs: Partial<FirewallRule> = {}): FirewallRule => ({
  table: 'plant',
  chain: 'forward',
  index,
  text: `tcp dport ${4840 + index} accept`,
  worth: 'used',
  needed: [],
  unneeded: [],
  moreUnneeded: 0,
  narrowed: [],
  tightened: null,
  withoutConduit: [],
  shadowedBy: [],
  links: [],
  ...differs,
});
const looked = (differs: Partial<FirewallView> = {}): FirewallView => ({
  firewall: firewall(),
  history: [],
  notes: [],
  rules: [
    rule(0, {
      worth: 'too-wide',
      links: [{ id: 'board--lehr', name: 'Board to Lehr' }],
      needed: ['10.4.0.5 to 10.1.0.8, TCP port 4840'],
      unneeded: ['any IPv4 address to 10.1.0.8, TCP port 4840'],
      moreUnneeded: 2,
      withoutConduit: [{ from: 'Office', to: 'Hot End' }],
      narrowed: ['ip saddr 10.4.0.5 ip daddr 10.1.0.8 tcp dport 4840 accept'],
    }),
    rule(1, { worth: 'shadowed', shadowedBy: [{ table: 'plant', chain: 'forward', index: 0 }] }),
  ],
  ...differs,
});

describe('the ways of links', () => {
  it('say how many are stopped, draw the first of them, and what would let it through', async () => {
    const site = await Site.open('/passage', { passage: view() });
    expect(site.headline).toBe('1 link is stopped at a firewall.');
    expect(site.text).toContain('stops here');
    expect(site.text).toMatch(/Inner firewall\s*: dropped\s*by its policy: no rule lets it through/);
    expect(site.text).toContain('nft add rule inet plant forward …');
    expect(site.text).toContain('nft delete rule inet plant forward handle 7');
  });

  it('draw whichever is chosen', async () => {
    const site = await Site.open('/passage', { passage: view() });
    await site.press(/^Board to Lehr$/);
    expect(site.url).toBe('/passage?link=board--lehr');
    expect(site.text).not.toContain('stops here');
  });

  it('become a work order, or it says why that can’t be', async () => {
    const site = await Site.open('/passage', { passage: view(), proposeOrder: refused('Something else came before.') });
    await site.press(/Propose a work order/);
    expect(site.one('[role=alert]').textContent).toContain('Something else came before.');
    site.answers.proposeOrder = order();
    site.answers.order = order();
    await site.press(/Propose a work order/);
    expect(site.asked('proposeOrder').at(-1)).toEqual({
      title: 'Let Board to Furnace through at Inner firewall',
      lines: [
        {
          change,
          why: 'Inner firewall drops it; Board to Furnace needs it for the server’s endpoint.',
          linkIds: ['board--furnace'],
        },
      ],
    });
  });

  it('says what a range of ports costs beside fixed ones and a tunnel', async () => {
    const objects = passage().openings.map((opening) => ({
      ...opening,
      purpose: 'objects' as const,
      ports: ['49152-65535'],
      portCount: 16_384,
    }));
    const mapper = passage().openings.map((opening) => ({ ...opening, purpose: 'mapper' as const }));
    const classic = passage({ kind: 'classic', openings: [...mapper, ...objects] });
    const site = await Site.open('/passage', { passage: view({ links: [classic] }) });
    expect(site.one('.way .notice').textContent?.replace(/\s+/g, ' ')).toContain(
      'must let 16,385 ports through; 2 with one fixed port for the objects of each machine; 1 by gateways',
    );
  });

  it('tell answers from what is asked', async () => {
    const opening = passage().openings[0];
    const answers = passage({
      openings: opening ? [{ ...opening, firewalls: [{ ...stopping, isAnswer: true, change: null }] }] : [],
    });
    const site = await Site.open('/passage', { passage: view({ links: [answers] }) });
    expect(site.text).toMatch(/Inner firewall\s*: answers are dropped/);
  });

  it('lead on to the first firewall where none is known', async () => {
    const site = await Site.open('/passage', { passage: view({ firewalls: [], links: [] }) });
    expect(site.headline).toBe('No firewall is known yet.');
    expect(site.text).toContain('Add a firewall');
  });
});

describe('firewalls and conduits', () => {
  it('are listed with where they stand and what they stop', async () => {
    const site = await Site.open('/passage/firewalls', {
      conduitWidths: { widths: [] },
      passage: view({
        firewalls: [
          firewall(),
          firewall({
            id: 'own',
            name: 'Furnace’s own',
            machineId: 'furnace',
            machine: 'Furnace',
            interfaces: [],
            rules: null,
          }),
        ],
      }),
    });
    expect(site.headline).toBe('2 firewalls are known; the rules of 1 are not.');
    const words = site.rows().map((row) => row.join(' '));
    expect(words.find((row) => row.includes('own'))).toMatch(/Furnace’s own.*on Furnace.*not yet/);
    expect(words[0]).toMatch(/Inner firewall.*Hot End, Control Room/);
    expect(words[2]).toMatch(/Control to Hot End.*Control Room.*Hot End.*Inner firewall.*2 1 1 no firewall known SL 2/);
  });

  it('say of each conduit which openings are there, which are missing, and what is too wide', async () => {
    const width = { conduitId: 'c', unneeded: ['10.4.0.5 to 10.1.0.8, TCP port 22'], moreUnneeded: 3, unsureAt: null };
    const site = await Site.open('/passage/firewalls', {
      passage: view(),
      conduitWidths: { widths: [{ ...width, unsureAt: 'Inner firewall' }] },
    });
    expect(site.rows().map((row) => row.join(' '))[1]).toMatch(/2 1 1 yes SL 2/);
    await site.press(/^Look$/);
    expect(site.text).toMatch(/Board to Furnace\s*, endpoint:\s*10.4.0.5 → 10.1.0.7\s*, TCP port 4840\s*, dropped/);
    expect(site.text).toMatch(/Board to Lehr\s*, endpoint:.*open/);
    expect(site.text).toContain('10.4.0.5 to 10.1.0.8, TCP port 22');
    expect(site.text).toContain('and 3 more');
    expect(site.text).toContain('There may be more: the rules of Inner firewall are not known');
  });

  it('are imported from a file, once that is confirmed, and say what is wrong with it', async () => {
    const bring = async (text: string) => {
      const importPassage = { firewalls: 1, conduits: 2, services: 0 };
      const site = await Site.open('/passage/firewalls', {
        conduitWidths: { widths: [] },
        passage: view(),
        importPassage,
      });
      await site.choose(/Import/, 'firewalls.json', text);
      expect(site.text).toContain('one with the id of a known one changes that one');
      await site.press(/^Import$/);
      return site;
    };
    const wrong = await bring('no JSON');
    expect(wrong.text).toContain('not well-formed JSON');
    expect(wrong.asked('importPassage')).toEqual([]);
    const document = { format: 'loyal-hinge/passage', version: 1, firewalls: [], conduits: [], services: [] };
    const right = await bring(JSON.stringify(document));
    expect(right.asked('importPassage')).toEqual([document]);
  });

  it('say of a conduit that its level is below the one of the zone into which it leads', async () => {
    const site = await Site.open('/passage/firewalls', { conduitWidths: { widths: [] }, passage: view() });
    expect(site.text).toContain('SL 2, below Hot End’s SL 3');
  });

  it('tell why it is not known what conduits let through', async () => {
    const site = await Site.open('/passage/firewalls', {
      passage: view(),
      conduitWidths: refused('It took too long.'),
    });
    expect(site.one('[role=alert]').textContent).toContain('It took too long.');
  });

  it('are added with an interface to each zone', async () => {
    const site = await Site.open('/passage/firewalls', {
      passage: view(),
      conduitWidths: { widths: [] },
      addFirewall: { id: 'outer' },
    });
    await site.press(/^Add a firewall$/);
    await site.press(/^Save$/);
    expect(site.text).toContain('A name is needed.');
    await site.fill(/^Name$/, 'Outer firewall');
    await site.press(/^Save$/);
    expect(site.text).toContain('A firewall between zones has at least two interfaces.');
    await site.fill(/^Hot End$/, 'eth0');
    await site.fill(/^Control Room$/, 'eth1');
    await site.press(/^Save$/);
    expect(site.asked('addFirewall')).toEqual([
      {
        name: 'Outer firewall',
        machineId: null,
        interfaces: [
          { name: 'eth0', zoneId: 'hot' },
          { name: 'eth1', zoneId: 'control' },
        ],
      },
    ]);
    expect(site.text).not.toContain('Hot End0');
  });

  it('need zones between which they stand', async () => {
    const site = await Site.open('/passage/firewalls', {
      conduitWidths: { widths: [] },
      passage: view({ zones: [], machines: [], firewalls: [], conduits: [], links: [] }),
    });
    await site.press(/^Add a firewall$/);
    expect(site.text).toContain('The plant has fewer than two zones');
  });

  it('are removed once that was confirmed', async () => {
    const site = await Site.open('/passage/firewalls', {
      passage: view(),
      conduitWidths: { widths: [] },
      removeFirewall: {},
    });
    await site.press(/^Remove$/);
    expect(document.body.textContent).toContain('nothing is changed at the firewall itself');
    const [sure] = [
      ...document.querySelectorAll<HTMLButtonElement>('[role=alertdialog] button, [role=dialog] button'),
    ].filter(({ textContent }) => textContent.trim() === 'Remove');
    sure?.click();
    await site.until(() =>
      site.calls.some(({ name, params }) => name === 'removeFirewall' && params['firewallId'] === 'inner'),
    );
  });
});

describe('services', () => {
  const service = { id: 'time', name: 'Time', kind: 'time' as const, machineId: 'furnace', port: 123, zoneIds: [] };
  const need = passage({
    linkId: 'service:time:control',
    link: 'Time for Control Room',
    kind: 'service',
    clientMachine: 'Control Room',
    openings: passage().openings.map((opening) => ({ ...opening, purpose: 'time', protocol: 'udp', ports: ['123'] })),
  });
  const known = { conduitWidths: { widths: [] }, passage: view({ services: [service], links: [passage(), need] }) };

  it('are listed with what firewalls make of them, zone by zone', async () => {
    const site = await Site.open('/passage/firewalls', known);
    expect(site.rows().map((row) => row.join(' '))[2]).toMatch(/Time time Furnace 123 Control Room\s+dropped/);
  });

  it('are counted as no link, and lead to none', async () => {
    const site = await Site.open('/passage?link=service:time:control', known);
    expect(site.headline).toBe('1 link is stopped at a firewall; 1 service lacks an opening.');
    expect(site.one('.way h2').textContent.trim()).toBe('Time for Control Room');
    expect(site.all('.way h2 a')).toEqual([]);
    expect(site.text).toMatch(/UDP port\s*123/);
  });

  it('and devices behind servers are neither links nor services', async () => {
    const device = {
      ...need,
      linkId: 'device:field:weigher',
      link: 'Field data asks Weigher',
      kind: 'device' as const,
      openings: need.openings.map((opening) => ({ ...opening, purpose: 'device' as const })),
    };
    const asked = view({ links: [passage(), need, device] });
    const site = await Site.open('/passage?link=device:field:weigher', { ...known, passage: asked });
    expect(site.headline).toBe(
      '1 link is stopped at a firewall; 1 service lacks an opening; 1 device can’t be asked by its server.',
    );
    expect(site.one('.way h2').textContent.trim()).toBe('Field data asks Weigher');
    expect(site.all('.way h2 a')).toEqual([]);
  });

  it('are added with their usual port, or none where certificates are managed', async () => {
    const site = await Site.open('/passage/firewalls', { ...known, addService: refused('There is no such machine.') });
    await site.press(/^Add a service$/);
    await site.fill(/^Name$/, 'Clock');
    await site.offered(/^What it is$/);
    await site.pick(/^time$/);
    await site.press(/^Save$/);
    expect(site.asked('addService')).toEqual([]);
    await site.offered(/^Runs on$/);
    await site.pick(/^Furnace$/);
    await site.press(/^Save$/);
    await site.offered(/^What it is$/);
    await site.pick(/^management of certificates$/);
    await site.press(/^Save$/);
    const wish = { name: 'Clock', machineId: 'furnace', zoneIds: [] };
    expect(site.asked('addService')).toEqual([
      { ...wish, kind: 'time', port: 123 },
      { ...wish, kind: 'management', port: null },
    ]);
  });
});

describe('one firewall', () => {
  it('says what each rule is worth', async () => {
    const site = await Site.open('/passage/firewalls/inner', { firewall: looked() });
    expect(site.headline).toBe(
      'Inner firewall: stops 1 link; 1 rule lets through what nobody needs; 1 rule never decides.',
    );
    await site.press(/^Look$/);
    expect(site.text).toContain('Lets through what is needed, and more than that.');
    expect(site.text).toContain('any IPv4 address to 10.1.0.8, TCP port 4840');
    expect(site.text).toContain('and 2 more');
    expect(site.text).toContain('It lets Office open connections to Hot End, and there is no conduit for that.');
    await site.press(/^Look$/);
    expect(site.text).toContain('All that it would decide is decided before, by rule 1 of forward.');
  });

  it('tries other texts, narrow rules, and none', async () => {
    const turns = [
      {
        linkId: 'board--furnace',
        link: 'Board to Furnace',
        purpose: 'endpoint' as const,
        before: 'drop' as const,
        after: 'accept' as const,
      },
    ];
    const site = await Site.open('/passage/firewalls/inner', {
      firewall: looked(),
      rulesWhatIf: refused('This is no rule.'),
    });
    await site.press(/^Look$/);
    await site.press(/^Try it$/);
    expect(site.one('[role=alert]').textContent).toContain('This is no rule.');
    await site.press(/^Close$/);
    site.answers.rulesWhatIf = { turns };
    await site.press(/^Look$/);
    await site.fill(/Try another text/, 'accept');
    await site.press(/^Try it$/);
    expect(site.text).toMatch(/Board to Furnace\s*, Endpoint: dropped →\s*open/);
    site.answers.rulesWhatIf = { turns: [] };
    await site.press(/Try the narrow rules instead/);
    expect(site.text).toContain('Nothing that the plant needs would be judged otherwise.');
    await site.press(/Try without it/);
    const place = { table: 'plant', chain: 'forward', index: 0 };
    expect(site.asked('rulesWhatIf').slice(1)).toEqual([
      { edits: [{ kind: 'replace', at: place, text: 'accept' }] },
      {
        edits: [
          { kind: 'remove', at: place },
          { kind: 'add', at: place, text: 'ip saddr 10.4.0.5 ip daddr 10.1.0.8 tcp dport 4840 accept' },
        ],
      },
      { edits: [{ kind: 'remove', at: place }] },
    ]);
  });

  it('becomes narrow, or goes, by a work order once that was tried on paper', async () => {
    const narrow = 'ip saddr 10.4.0.5 ip daddr 10.1.0.8 tcp dport 4840 accept';
    const tightened = (differs: { rules: string[]; by: string[] }) => ({
      ...change,
      kind: 'replace-rules' as const,
      commands: [],
      undo: [],
      ...differs,
    });
    const [wide, shadowed] = looked().rules;
    if (!wide || !shadowed) throw new Error('no rules');
    const narrowing = tightened({ rules: [wide.text], by: [narrow] });
    const going = tightened({ rules: [shadowed.text], by: [] });
    const site = await Site.open('/passage/firewalls/inner', {
      firewall: looked({
        rules: [
          { ...wide, tightened: narrowing },
          { ...shadowed, tightened: going },
        ],
      }),
      rulesWhatIf: { turns: [] },
      proposeOrder: refused('Something else came before.'),
    });
    await site.press(/^Look$/);
    await site.press(/Try without it/);
    expect(site.text).not.toContain('Propose a work order');
    await site.press(/Try the narrow rules instead/);
    expect(site.text).toContain('Ask who else uses it before you change it.');
    expect(site.text).toContain('At the firewall, by hand, these rules take the place of the one above:');
    await site.press(/Propose a work order/);
    expect(site.one('[role=alert]').textContent).toContain('Something else came before.');
    await site.press(/^Look$/);
    await site.press(/Try without it/);
    expect(site.text).not.toContain('Ask who else uses it');
    expect(site.text).toContain('Take the rule away at the firewall by hand.');
    await site.press(/Propose a work order/);
    expect(site.asked('proposeOrder')).toEqual([
      {
        title: 'Narrow rule 1 of forward at Inner firewall',
        lines: [
          {
            change: narrowing,
            why: 'Lets through what is needed, and more than that.',
            linkIds: ['board--lehr'],
          },
        ],
      },
      {
        title: 'Take away rule 2 of forward at Inner firewall',
        lines: [
          { change: going, why: 'All that it would decide is decided before, by rule 1 of forward.', linkIds: [] },
        ],
      },
    ]);
  });

  it('is not proposed to be narrowed where that would cut off what is needed', async () => {
    const [wide] = looked().rules;
    if (!wide) throw new Error('no rule');
    const tightened = { ...change, kind: 'replace-rules' as const, rules: [wide.text], by: wide.narrowed };
    const turn = {
      linkId: 'service:names:hot',
      link: 'Name service for Hot End',
      purpose: 'names' as const,
      before: 'accept' as const,
      after: 'drop' as const,
    };
    const site = await Site.open('/passage/firewalls/inner', {
      firewall: looked({ rules: [{ ...wide, tightened }] }),
      // Asked over UDP and over TCP: the same need turns twice.
      rulesWhatIf: { turns: [turn, turn] },
    });
    await site.press(/^Look$/);
    await site.press(/Try the narrow rules instead/);
    expect(site.text).toContain('It would cut off what is needed, and is not proposed.');
    expect(site.text).not.toContain('Propose a work order');
    site.answers.rulesWhatIf = { turns: [{ ...turn, before: 'drop' as const, after: 'accept' as const }] };
    await site.press(/Try the narrow rules instead/);
    expect(site.text).toContain('Propose a work order');
  });

  it('says which files it takes while its rules are not known, and what could not be read', async () => {
    const site = await Site.open('/passage/firewalls/inner', {
      firewall: looked({
        firewall: firewall({ rules: null }),
        rules: [],
        notes: [{ line: 4, says: 'This is cut off.' }],
      }),
    });
    expect(site.headline).toBe('The rules of Inner firewall are not known yet.');
    expect(site.text).toContain('iptables-save');
    expect(site.text).toContain('This is cut off.');
  });
});

describe('a plant that begins', () => {
  it('is not told that all links get through where it has none, and sees its zones and firewalls', async () => {
    const begun = view({ machines: [], conduits: [], links: [], firewalls: [firewall({ links: 0, stopped: 0 })] });
    const ways = await Site.open('/passage', { passage: begun });
    expect(ways.headline).toBe('The plant has no links yet.');
    expect(ways.all('hinge-passage-map text').map(({ textContent }) => textContent)).toContain('Hot End');
    const firewalls = await Site.open('/passage/firewalls', { passage: begun, conduitWidths: { widths: [] } });
    expect(firewalls.headline).toBe('1 firewall is known, with its rules.');
  });
});

describe('the map', () => {
  const many = view({
    zones: Array.from({ length: 6 }, (_, index) => ({ id: `z${index}`, name: `Zone ${index}`, targetLevel: null })),
    machines: Array.from({ length: 60 }, (_, index) => ({
      id: `m${index}`,
      name: `Machine ${index}`,
      zoneId: `z${index % 6}`,
    })),
    firewalls: [
      firewall({
        interfaces: [
          { name: 'a', zoneId: 'z0' },
          { name: 'b', zoneId: 'z5' },
        ],
      }),
    ],
  });

  it('has room for sixty machines, none of them over another', () => {
    const { machines, zones } = layoutOf(many);
    expect(machines).toHaveLength(60);
    const overlaps = machines.some((one, index) =>
      machines
        .slice(index + 1)
        .some((other) => Math.abs(one.x - other.x) < one.width && Math.abs(one.y - other.y) < 26),
    );
    expect(overlaps).toBe(false);
    for (const machine of machines) {
      const zone = zones.find(({ y, height }) => machine.y >= y && machine.y + 26 <= y + height);
      expect(zone).toBeDefined();
    }
  });

  it('draws a way from machine to machine, or to where it stops', () => {
    const layout = layoutOf(view());
    expect(wayOf(layout, through)).toMatchObject({ stop: null });
    const stopped = wayOf(layout, passage());
    expect(stopped?.stop?.name).toBe('Inner firewall');
    const [wall] = layout.firewalls;
    expect(stopped?.points.at(-1)?.[0]).toBe(wall?.x);
    const openings = passage().openings.map((each) => ({ ...each, between: { ...each.between, from: 'Nobody' } }));
    expect(wayOf(layout, passage({ openings }))).toBeNull();
    const [band] = layout.zones.filter(({ id }) => id === 'control');
    const fromZone = openings.map((each) => ({
      ...each,
      between: { ...each.between, from: 'machines of Control Room' },
    }));
    const [, start = 0] = wayOf(layout, passage({ openings: fromZone }))?.points[0] ?? [];
    expect(start).toBeGreaterThan(band?.y ?? 0);
    expect(start).toBeLessThan((band?.y ?? 0) + (band?.height ?? 0));
  });
});
