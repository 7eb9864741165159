import { application, link, machine, mayActAs, plantSettings, roles, routes } from './index.js';

const good = {
  id: 'furnace',
  zoneId: 'hot-end',
  name: 'Furnace',
  description: '',
  hostNames: ['furnace.works.example'],
  addresses: ['10.0.0.1', 'fd00::1'],
};
const saysOf = (
  schema: { safeParse(value: unknown): { error?: { issues: { message: string; path: PropertyKey[] }[] } } },
  value: unknown,
) => schema.safeParse(value).error?.issues.map((issue) => `${issue.path.join('.')}: ${issue.message}`) ?? [];

describe('what crosses a boundary', () => {
  it('lets a good machine through, and says of a bad one what is wrong', () => {
    expect(saysOf(machine, good)).toEqual([]);
    expect(saysOf(machine, { ...good, id: 'Fur nace' })).toEqual([
      'id: An id is made of small letters, digits and hyphens.',
    ]);
    expect(saysOf(machine, { ...good, addresses: ['10.0.0.1', '10.0.0.300'] })).toEqual([
      'addresses.1: This is no IP address.',
    ]);
    expect(saysOf(machine, { ...good, hostNames: ['a b'] })).toEqual(['hostNames.0: This is no host name.']);
    expect(saysOf(machine, { ...good, name: '   ' })).toEqual(['name: A name is needed.']);
  });

  it('tells servers and clients apart', () => {
    const placed = { id: 'a', machineId: 'furnace', name: 'A', applicationUri: 'urn:a' };
    expect(saysOf(application, { kind: 'server', ...placed, ports: [4840] })).toEqual([]);
    expect(saysOf(application, { kind: 'server', ...placed, ports: [0] })).toEqual(['ports.0: A port is at least 1.']);
    expect(saysOf(application, { kind: 'client', ...placed, securityPolicies: [], securityModes: ['Sign'] })).toEqual([
      'securityPolicies: At least one security policy is needed.',
    ]);
    expect(saysOf(application, { kind: 'gateway', ...placed })).not.toEqual([]);
  });

  it('keeps an endpoint URL as it was typed, so that it can be judged', () => {
    const typed = {
      id: 'l',
      name: 'L',
      clientId: 'c',
      serverId: 's',
      endpointUrl: 'opc.tcp://furnace :4840',
      pinnedAddress: null,
      chosenEndpoint: null,
      needs: [],
      identity: { kind: 'anonymous' },
      floor: 'any',
      kind: 'ua',
      staleAfterMs: 1000,
    };
    expect(link.parse(typed).endpointUrl).toBe('opc.tcp://furnace :4840');
  });

  it('takes ranges and name servers in their usual form', () => {
    const settings = {
      plantName: 'Works',
      declaredRanges: ['10.20.0.0/16', 'fd00::/8'],
      nameServer: '10.20.0.53:53',
      dialFromClientAddress: false,
      crlsDemanded: false,
      approvedByAnother: false,
    };
    expect(saysOf(plantSettings, settings)).toEqual([]);
    expect(saysOf(plantSettings, { ...settings, nameServer: 'dns.works.example' })).toHaveLength(1);
  });
});

describe('roles', () => {
  it('may each do what the ones before may', () => {
    expect(roles.map((held) => roles.filter((needed) => mayActAs(held, needed)).length)).toEqual([1, 2, 3, 4]);
  });
});

describe('the table of calls', () => {
  it('has no call twice, and lets nobody change anything without a role', () => {
    const all = Object.values(routes);
    expect(new Set(all.map(({ method, path }) => `${method} ${path}`)).size).toBe(all.length);
    const open = Object.entries(routes).filter(([, { role }]) => role === null);
    expect(open.map(([name]) => name)).toEqual(['health', 'signIn', 'pullRequest', 'pullResult']);
    for (const { method, role } of all)
      if (method !== 'get' && role !== null && role !== 'viewer')
        expect(['engineer', 'approver', 'administrator']).toContain(role);
  });
});
