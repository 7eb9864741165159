import type { Link, LinkIdentity, LinkInPlant, OfferedEndpoint } from '@loyal-hinge/core';
import { gatewayConfiguration } from '@loyal-hinge/contract/line';
import { configurationOf, faultsAmong, programOfGateway, whyReaderIsLeftOut, whySourceIsLeftOut } from './configured';
import type { PlannedGateway, PlannedReader, PlannedSource } from './configured';

const machine = { id: 'm', zoneId: 'z', name: 'M', description: '', hostNames: [], addresses: ['10.1.0.5'] };
const subject = (id: string, differs: Partial<Link> = {}): LinkInPlant => ({
  link: {
    id,
    kind: 'ua',
    name: id,
    clientId: 'c',
    serverId: 's',
    endpointUrl: 'opc.tcp://furnace:4840',
    pinnedAddress: null,
    chosenEndpoint: null,
    needs: [],
    identity: { kind: 'anonymous' },
    floor: 'signed',
    staleAfterMs: 1000,
    ...differs,
  },
  client: {
    id: 'c',
    kind: 'client',
    machineId: 'm',
    name: 'Works',
    applicationUri: 'urn:c',
    securityPolicies: [],
    securityModes: [],
  },
  clientMachine: machine,
  server: { id: 's', kind: 'server', machineId: 'm', name: 'Furnace/1', applicationUri: 'urn:s', ports: [4840] },
  serverMachine: machine,
  machines: [machine],
});
const endpoint = (policy: string): OfferedEndpoint => ({
  endpointUrl: 'opc.tcp://furnace:4840',
  applicationUri: 'urn:s',
  securityMode: 'SignAndEncrypt',
  securityLevel: 1,
  securityPolicyUri: `http://opcfoundation.org/UA/SecurityPolicy#${policy}`,
  userTokens: [],
  certificate: null,
});
const source = (id: string, differs: Partial<Link> = {}, more: Partial<PlannedSource> = {}): PlannedSource => ({
  subject: subject(id, differs),
  endpoint: endpoint('Basic256Sha256'),
  password: null,
  at: { address: '10.1.0.5', port: 4840 },
  ...more,
});
const reader = (id: string, differs: Partial<Link>, more: Partial<PlannedReader> = {}): PlannedReader => ({
  subject: subject(id, differs),
  passwordLine: null,
  password: null,
  ...more,
});
const user = (userName: string): LinkIdentity => ({ kind: 'user', userName });
const line = 'scrypt:AAAA:BBBB';
type Differs = Partial<Omit<PlannedGateway, 'known'>> & { readonly known?: Partial<PlannedGateway['known']> };
const planned = (differs: Differs): PlannedGateway => ({
  sources: [],
  readers: [],
  hasTrusted: true,
  hasIssuers: false,
  hasCrls: false,
  ...differs,
  known: {
    outpost: { id: 'works-gateway' },
    server: subject('x').server,
    address: '10.1.0.9',
    port: 4860,
    places: [],
    relays: [],
    classic: null,
    ...differs.known,
  } as PlannedGateway['known'],
});

describe('what a gateway shall hold', () => {
  it('follows from its links: what they need is shown under the names of their servers', () => {
    const needs = [
      { path: 'Furnace/*', uses: ['read' as const] },
      { path: 'Furnace/Wanted', uses: ['write' as const] },
      { path: 'ns=2;s=Hidden', uses: ['read' as const] },
      { path: 'Furnace', uses: ['alarms' as const] },
    ];
    const made = configurationOf(
      planned({ sources: [source('to furnace', { needs, identity: user('a') }, { password: 'x' })] }),
    );
    expect(gatewayConfiguration.safeParse(made).success).toBe(true);
    const [read] = made.sources;
    expect(read).toMatchObject({
      kind: 'ua',
      endpointUrl: 'opc.tcp://10.1.0.5:4840',
      policy: 'Basic256Sha256',
      events: ['Furnace'],
    });
    expect(made.places.map(({ items, domain, isWritable }) => [items, domain, isWritable])).toEqual([
      ['Furnace/*', 'Furnace 1', false],
      ['Furnace/Wanted', 'Furnace 1', true],
      ['Furnace', 'Furnace 1', false],
    ]);
    expect(JSON.stringify(made)).not.toContain('"x"');
  });

  it('takes places that were set instead, and relays whose ends are both read', () => {
    const relay = (id: string, from: string, to: string) => ({
      id,
      from: { linkId: from, path: 'A' },
      to: { linkId: to, path: 'B' },
      scale: null,
      deadBand: null,
      as: null,
      onBad: { kind: 'hold' as const },
    });
    const places = [
      { linkId: 'one', items: '**', domain: 'D', withoutFirst: 1, isWritable: false },
      { linkId: 'gone', items: '**', domain: 'E', withoutFirst: 0, isWritable: false },
    ];
    const made = configurationOf(
      planned({
        sources: [source('one', { needs: [{ path: 'X', uses: ['read'] }] }), source('two', {}, { endpoint: null })],
        known: { places, relays: [relay('kept', 'one', 'one'), relay('left', 'one', 'two')] },
      }),
    );
    expect(made.sources.map(({ name }) => name)).toEqual(['one']);
    expect(made.places).toEqual([{ source: 'one', items: '**', domain: 'D', withoutFirst: 1, isWritable: false }]);
    expect(made.relays.map(({ id }) => id)).toEqual(['kept']);
  });

  it('lets in whom the links to it name, and anonymous users only where one comes so', () => {
    const writing = [{ path: 'A', uses: ['write' as const] }];
    const made = configurationOf(
      planned({
        readers: [
          reader('a', { identity: user('board') }, { passwordLine: line }),
          reader('b', { identity: user('board'), needs: writing }, { passwordLine: line }),
          reader('c', { identity: user('unknown') }),
        ],
      }),
    );
    expect(made.faces[0]).toMatchObject({
      kind: 'ua',
      allowsAnonymous: false,
      users: [{ name: 'board', password: line, mayWrite: true }],
    });
    const open = configurationOf(planned({ readers: [reader('a', {})] }));
    expect(open.faces[0]).toMatchObject({ allowsAnonymous: true, users: [] });
  });

  it('has a classic source, whose names become paths, and a classic face where it has a mapper', () => {
    const classic = {
      kind: 'classic' as const,
      endpointUrl: 'classic://lehr:135/Works.Lehr.1',
      classic: { level: 'privacy' as const, updateRateMs: 20 },
    };
    const made = configurationOf(
      planned({
        sources: [
          source(
            'lehr',
            { ...classic, needs: [{ path: 'Lehr.Zone*.Temperature', uses: ['read'] }] },
            { endpoint: null, at: { address: '10.1.0.5', port: 135 } },
          ),
        ],
        readers: [reader('trend', { ...classic, identity: user('D\\trend') }, { passwordLine: line, password: 'x' })],
        known: {
          classic: {
            client: subject('x').client,
            server: subject('x').server,
            mapperPort: 10_135,
            clsid: crypto.randomUUID(),
          },
        },
      }),
    );
    expect(gatewayConfiguration.safeParse(made).success).toBe(true);
    expect(made.sources[0]).toMatchObject({
      kind: 'classic',
      program: 'Works.Lehr.1',
      mapperPort: 135,
      publishingMs: 50,
    });
    expect(made.places[0]?.items).toBe('Lehr/Zone*/Temperature');
    expect(made.faces[1]).toMatchObject({
      kind: 'classic',
      mapperPort: 10_135,
      users: [{ name: 'trend', passwordFile: 'reader-trend.txt' }],
    });
  });

  it('is known to classic clients by a name that is one', () => {
    expect(programOfGateway('works-gateway')).toBe('Gateway.WorksGateway.1');
    expect(programOfGateway('x'.repeat(80))).toMatch(/^Gateway\.X.{29}\.1$/);
  });
});

describe('what a gateway is not told', () => {
  it.each([
    [source('a', { identity: { kind: 'certificate', certificate: 'c' } }), 'a name and a password'],
    [source('a', { identity: user('b') }), 'No password is kept for “b” there'],
    [source('a', {}, { at: null }), 'can’t be dialled'],
    [source('a', {}, { endpoint: null }), 'No check has seen an endpoint of Furnace/1'],
    [source('a', {}, { endpoint: endpoint('Basic256') }), 'does not use the policy'],
  ])('is a server: %#', (planned, says) => {
    expect(whySourceIsLeftOut(planned)).toContain(says);
  });

  it.each([
    [reader('a', { identity: { kind: 'certificate', certificate: 'c' } }), 'takes a name and a password'],
    [reader('a', { identity: user('b') }), 'No password is kept for “b”'],
    [reader('a', { kind: 'classic' }), 'Its classic clients sign in'],
  ])('is a reader: %#', (planned, says) => {
    expect(whyReaderIsLeftOut(planned)).toContain(says);
  });

  it('is a relay onto itself, by links and paths', () => {
    const end = { linkId: 'one', path: 'A' };
    const relay = {
      id: 'r',
      from: end,
      to: end,
      scale: null,
      deadBand: null,
      as: null,
      onBad: { kind: 'hold' as const },
    };
    expect(faultsAmong([relay]).join()).toContain('writes the item that it reads');
  });
});
