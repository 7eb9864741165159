import type { EndpointDescription } from '../entry/endpoint.js';
import { noFloor } from '../entry/floor.js';
import type { EntryFloor } from '../entry/floor.js';
import type { Fact, FactBody, FactOf, FactSource, Withheld } from '../links/facts.js';
import type { Link, LinkInPlant, Machine } from '../plant/plant.js';
import type { CertificateSummary } from '../trust/certificate.js';
import type { CertificateValidation } from '../trust/validation.js';
import type { CertificateProblem } from '../trust/validation/problem.js';
import { securityPolicies } from '../ua/security-policies.js';
import type { SecurityMode, SecurityPolicyName } from '../ua/security-policies.js';

export const now = '2026-03-01T12:00:00.000Z';

let count = 0;

/** A fact with an id and a time of its own. */
export function fact<Body extends FactBody>(body: Body, source: FactSource = 'tried'): Fact {
  count += 1;
  return { id: `fact-${count}`, source, at: now, ...body };
}

const machine = (id: string, address: string): Machine => ({
  id,
  zoneId: 'hot-end',
  name: id,
  description: '',
  hostNames: [`${id}.works.example`],
  addresses: [address],
});

/** A link from a display to a furnace server, with both ends; what matters to a test is given. */
export function subject(
  differs: Partial<Link> = {},
  ends: { policies?: SecurityPolicyName[]; modes?: SecurityMode[]; ports?: number[] } = {},
): LinkInPlant {
  const clientMachine = machine('display', '10.0.0.2');
  const serverMachine = machine('furnace', '10.0.0.1');
  return {
    link: {
      id: 'display--furnace',
      name: 'Display to Furnace',
      clientId: 'display-client',
      serverId: 'furnace-server',
      endpointUrl: 'opc.tcp://furnace.works.example:4840',
      pinnedAddress: null,
      chosenEndpoint: null,
      needs: [{ path: 'Furnace/Crown', uses: ['read', 'watch'] }],
      identity: { kind: 'user', userName: 'display' },
      floor: 'signed',
      kind: 'ua',
      staleAfterMs: 60_000,
      ...differs,
    },
    client: {
      kind: 'client',
      id: 'display-client',
      machineId: 'display',
      name: 'Display client',
      applicationUri: 'urn:works.example:display',
      securityPolicies: ends.policies ?? ['Basic256Sha256'],
      securityModes: ends.modes ?? ['Sign', 'SignAndEncrypt'],
    },
    server: {
      kind: 'server',
      id: 'furnace-server',
      machineId: 'furnace',
      name: 'Furnace server',
      applicationUri: 'urn:works.example:furnace',
      ports: ends.ports ?? [4840],
    },
    clientMachine,
    serverMachine,
    machines: [clientMachine, serverMachine, machine('lehr', '10.0.0.3')],
  };
}

export const certificate = (differs: Partial<CertificateSummary> = {}): CertificateSummary => ({
  thumbprint: 'AB'.repeat(20),
  sha256: 'CD'.repeat(32),
  subject: 'CN=Furnace server, O=Works',
  issuer: 'CN=Furnace server, O=Works',
  serialNumber: '01',
  notBefore: '2025-01-01T00:00:00.000Z',
  notAfter: '2030-01-01T00:00:00.000Z',
  applicationUris: ['urn:works.example:furnace'],
  dnsNames: ['furnace.works.example'],
  ipAddresses: [],
  keyType: 'RSA',
  keyBits: 2048,
  signatureHash: 'SHA-256',
  keyUsages: [],
  extendedKeyUsages: [],
  isAuthority: false,
  pathLength: null,
  selfIssued: true,
  subjectKeyId: null,
  authorityKeyId: null,
  ...differs,
});

export const endpoint = (
  policy: SecurityPolicyName,
  mode: SecurityMode,
  differs: Partial<EndpointDescription> = {},
): EndpointDescription => ({
  endpointUrl: 'opc.tcp://furnace.works.example:4840',
  applicationUri: 'urn:works.example:furnace',
  securityPolicyUri: securityPolicies[policy].uri,
  securityMode: mode,
  securityLevel: 0,
  userTokens: [{ policyId: 'user', tokenType: 'UserName', securityPolicyUri: '' }],
  certificate: certificate(),
  ...differs,
});

export const listed = (...endpoints: readonly EndpointDescription[]): Fact =>
  fact({ kind: 'endpoints', outcome: 'listed', endpoints, ms: 5 });

export const validation = (of: 'server' | 'client', ...problems: readonly CertificateProblem[]): Fact => {
  const bad = problems.find((problem) => problem.status !== 'Good');
  const result: CertificateValidation = {
    status: bad?.status ?? 'Good',
    certificate: certificate(),
    steps: bad ? [{ step: 'trust list', number: 5, result: 'failed', status: bad.status, says: 'It fails.' }] : [],
    problems,
    path: [],
  };
  return fact({ kind: 'certificate-validation', of, validation: result }, 'reckoned');
};

const limits = {
  protocolVersion: 0,
  receiveBufferSize: 65_536,
  sendBufferSize: 65_536,
  maxMessageSize: 0,
  maxChunkCount: 0,
};
const secured = {
  kind: 'channel' as const,
  securityPolicyUri: securityPolicies.Basic256Sha256.uri,
  securityMode: 'SignAndEncrypt' as const,
  ms: 20,
};

export const facts = {
  url: (given: string, flaws: { kind: 'blank'; says: string }[] = [], cleaned: string | null = given): Fact =>
    fact({ kind: 'endpoint-url', given, cleaned, host: 'furnace.works.example', port: 4840, flaws }, 'reckoned'),
  resolved: (
    addresses: readonly string[],
    host = 'furnace.works.example',
    purpose: 'link' | 'advertised' = 'link',
  ): Fact =>
    fact({
      kind: 'name-resolution',
      purpose,
      host,
      means: 'name server',
      asked: '10.0.0.53',
      addresses,
      failure: addresses.length > 0 ? null : 'the name is not known',
      ms: 2,
    }),
  passage: (verdict: FactOf<'passage'>['verdict'], more: Partial<FactOf<'passage'>> = {}): Fact =>
    fact(
      {
        kind: 'passage',
        purpose: 'endpoint',
        opens: 'client',
        from: ['10.0.0.7'],
        to: ['10.0.0.1'],
        ports: ['4840'],
        verdict,
        firewalls: [
          {
            id: 'inner',
            name: 'Inner firewall',
            verdict,
            rule: null,
            why: null,
            translated: null,
            takenAt: now,
            change: null,
          },
        ],
        ...more,
      },
      'reckoned',
    ),
  redundant: (...others: FactOf<'redundancy'>['others']): Fact => fact({ kind: 'redundancy', support: 'Warm', others }),
  /** By what its two ends said. */
  tunnel: (...states: readonly ('joined' | 'waiting' | 'away')[]): Fact =>
    fact(
      {
        kind: 'tunnel',
        tunnelId: 't',
        name: 'Hot end tunnel',
        entrance: { address: '10.0.0.7', port: 48_400 },
        target: { address: '10.0.0.1', port: 4840 },
        ends: (['listens', 'dials'] as const).map((side, index) => ({
          side,
          machine: side === 'listens' ? 'Furnace' : 'Display',
          state: states[index] ?? 'joined',
          heardAt: now,
          fault: null,
        })),
      },
      'reported',
    ),
  dialled: (
    outcome: 'open' | 'refused' | 'silent',
    ms = 3,
    address = '10.0.0.1',
    port = 4840,
    purpose: 'link' | 'advertised' | 'neighbour' = 'link',
  ): Fact => fact({ kind: 'tcp-connect', purpose, from: null, address, port, outcome, ms }),
  hello: (differs: Partial<typeof limits> = {}): Fact =>
    fact({
      kind: 'hello',
      address: '10.0.0.1',
      port: 4840,
      ms: 2,
      outcome: 'acknowledged',
      limits: { ...limits, ...differs },
    }),
  channel: (): Fact => fact({ ...secured, outcome: 'open' }),
  channelRefused: (code = 'BadSecurityChecksFailed'): Fact =>
    fact({ ...secured, outcome: 'refused', code, reason: '' }),
  session: (clockApartMs = 10): Fact =>
    fact({
      kind: 'session',
      tokenType: 'UserName',
      passwordInClear: false,
      ms: 9,
      outcome: 'active',
      revisedSessionTimeoutMs: 30_000,
      serverTime: now,
      clockApartMs,
    }),
  sessionRefused: (code: string, during: 'CreateSession' | 'ActivateSession' = 'ActivateSession'): Fact =>
    fact({
      kind: 'session',
      tokenType: 'UserName',
      passwordInClear: false,
      ms: 9,
      outcome: 'refused',
      code,
      reason: '',
      during,
    }),
  withheld: (why: Withheld): Fact =>
    fact({ kind: 'session', tokenType: 'UserName', passwordInClear: false, ms: 0, outcome: 'withheld', ...why }),
  found: (path = 'Furnace/Crown'): Fact =>
    fact({ kind: 'item-found', path, ms: 4, outcome: 'found', nodeId: 'ns=1;s=Crown' }),
  missing: (path = 'Furnace/Crown', nearest: string | null = null): Fact =>
    fact({ kind: 'item-found', path, ms: 4, outcome: 'missing', code: 'BadNoMatch', nearest, seen: 6 }),
  read: (code = 'Good', sourceTimestamp = now, userAccessLevel: string[] = ['CurrentRead']): Fact =>
    fact({
      kind: 'item-read',
      path: 'Furnace/Crown',
      nodeId: 'ns=1;s=Crown',
      code,
      value: '1585',
      dataType: 'Double',
      sourceTimestamp,
      serverTimestamp: now,
      accessLevel: ['CurrentRead'],
      userAccessLevel,
      ms: 3,
    }),
  rights: (
    userAccessLevel: string[] | null = ['CurrentRead'],
    userPermissions: string[] | null = null,
    accessRestrictions: string[] | null = null,
  ): Fact =>
    fact({
      kind: 'item-rights',
      path: 'Furnace/Crown',
      nodeId: 'ns=1;s=Crown',
      userAccessLevel,
      userPermissions,
      accessRestrictions,
      unread: userAccessLevel === null ? ['UserAccessLevel: BadAttributeIdInvalid'] : [],
    }),
  written: (outcome: FactOf<'item-written'>['outcome'] = 'same value', code = 'Good'): Fact =>
    fact({
      kind: 'item-written',
      path: 'Furnace/Crown',
      nodeId: 'ns=1;s=Crown',
      outcome,
      code,
      before: '1585',
      after: outcome === 'other value' ? '1586' : '1585',
      by: 'engineer',
      as: { userName: 'display', applicationUri: 'urn:works:furnace' },
      ms: 4,
    }),
  history: (values = 60, code = 'Good', userAccessLevel: string[] = ['CurrentRead', 'HistoryRead']): Fact =>
    fact({
      kind: 'item-history',
      path: 'Furnace/Crown',
      nodeId: 'ns=1;s=Crown',
      code,
      from: now,
      to: new Date(Date.parse(now) + 3_600_000).toISOString(),
      values,
      accessLevel: userAccessLevel,
      userAccessLevel,
      oldest: values === 0 ? null : now,
      newest: values === 0 ? null : now,
      ms: 12,
    }),
  alarms: (events = 1, code = 'Good', sendsEvents: boolean | null = true): Fact =>
    fact({
      kind: 'item-alarms',
      path: 'Furnace',
      nodeId: 'ns=1;s=Furnace',
      sendsEvents,
      code,
      refreshCode: code === 'Good' ? 'Good' : '',
      events,
      first: events === 0 ? null : { message: 'Crown too hot', severity: 700, sourceName: 'Crown' },
      waitedMs: 6000,
    }),
  unanswered: (host = 'furnace.works.example'): Fact =>
    fact({
      kind: 'name-resolution',
      purpose: 'link',
      host,
      means: 'name server',
      asked: '10.0.0.53',
      addresses: [],
      failure: 'no answer in time',
      lookUp: 'not answered',
      ms: 2000,
    }),
  /** What the plant accepts; where an exception does, `instead` is the plant’s own floor. */
  floor: (accepts: Partial<EntryFloor>, instead: Partial<EntryFloor> | null = null): Fact =>
    fact(
      {
        kind: 'entry-floor',
        floor: { ...noFloor, ...accepts },
        exception: instead && {
          reason: 'It is replaced in May.',
          until: '2026-05-31T00:00:00.000Z',
          by: 'approver',
          instead: { ...noFloor, ...instead },
        },
      },
      'reckoned',
    ),
  notTried: (reason: FactOf<'not-tried'>['reason'], what: string): Fact =>
    fact({ kind: 'not-tried', reason, purpose: 'link', what }, 'reckoned'),
  changeMade: (inLists = false): Fact =>
    fact(
      { kind: 'change-made', says: 'Furnace server was to trust Line display.', since: now, by: 'engineer', inLists },
      'reported',
    ),
  watched: (
    firstNotificationMs: number | null = 80,
    revisedSamplingIntervalMs = 250,
    keepAlives = 0,
    code = 'Good',
  ): Fact =>
    fact({
      kind: 'item-watched',
      path: 'Furnace/Crown',
      code,
      requestedSamplingIntervalMs: 250,
      revisedSamplingIntervalMs,
      revisedPublishingIntervalMs: 250,
      firstNotificationMs,
      changes: 1,
      keepAlives,
      waitedMs: 900,
    }),
};

const best = endpoint('Basic256Sha256', 'SignAndEncrypt');

/** All facts of a link on which nothing is wrong. */
export const healthy = (): Fact[] => [
  facts.url('opc.tcp://furnace.works.example:4840'),
  facts.resolved(['10.0.0.1']),
  facts.dialled('open'),
  facts.hello(),
  listed(best),
  validation('server'),
  facts.channel(),
  facts.session(),
  facts.found(),
  facts.read(),
  facts.watched(),
];
