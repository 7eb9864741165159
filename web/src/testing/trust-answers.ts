import type {
  AuthorityView,
  CertificatePage,
  HolderDetail,
  HorizonView,
  OrderLine,
  PullTicket,
  SetAsideEntry,
  TrustFinding,
  TrustOverview,
  TrustPartyRow,
  TrustPlans,
  WorkOrder,
} from '@loyal-hinge/contract';

/** Answers about trust as the server gives them, for pages in tests. */

const day = (number: number): string => new Date(Date.UTC(2026, 2, number, 10)).toISOString();
export const thumbprintOf = (letter: string): string => letter.repeat(40);

type Summary = SetAsideEntry['certificate'];
export const summary = (name: string, differs: Partial<Summary> = {}): Summary => ({
  thumbprint: thumbprintOf('A'),
  sha256: 'A'.repeat(64),
  subject: `CN=${name}, O=Works`,
  issuer: `CN=${name}, O=Works`,
  serialNumber: '01',
  notBefore: day(1),
  notAfter: '2030-01-01T00:00:00.000Z',
  applicationUris: [`urn:works:${name}`],
  dnsNames: [],
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

export const party = (id: string, name: string, differs: Partial<TrustPartyRow> = {}): TrustPartyRow => ({
  applicationId: id,
  name,
  kind: 'server',
  zone: 'Hot End',
  certificate: null,
  way: 'push',
  restarts: false,
  readAt: day(1),
  fault: null,
  trusted: 2,
  issuers: 0,
  crls: 0,
  rejected: 1,
  reading: false,
  ...differs,
});

const column = (letter: string, name: string): TrustOverview['columns'][number] => ({
  thumbprint: thumbprintOf(letter),
  name,
  subject: `CN=${name}`,
  isAuthority: false,
  notAfter: '2030-01-01T00:00:00.000Z',
  shownBy: ['display'],
  revoked: false,
});

const fourParties = [
  party('furnace', 'Furnace server'),
  party('lehr', 'Lehr server', { zone: 'Cold End', fault: 'It does not answer.' }),
  party('display', 'Line display', { kind: 'client', zone: 'Control Room', way: 'held' }),
  party('crane', 'Crane server', { zone: 'Cold End', way: 'files' }),
];

/** The applications by name, as pages offer them for choosing. */
export const parties = () => ({ fitting: fourParties.length, parties: fourParties });

export const finding = (differs: Partial<TrustFinding> = {}): TrustFinding => ({
  headline: '1 link stops at trust.',
  refused: 1,
  unknown: 0,
  idle: 0,
  unread: 0,
  ...differs,
});

export const overview = (differs: Partial<TrustOverview> = {}): TrustOverview => ({
  from: 0,
  fitting: 4,
  reading: 0,
  parties: fourParties,
  columns: [column('A', 'Line display'), column('B', 'Old laptop')],
  cells: [
    {
      holderId: 'furnace',
      thumbprint: thumbprintOf('A'),
      standing: 'set aside',
      status: 'BadCertificateUntrusted',
      says: 'It is among the rejected ones.',
      linkIds: ['display--furnace'],
    },
    {
      holderId: 'lehr',
      thumbprint: thumbprintOf('B'),
      standing: 'directly',
      status: 'Good',
      says: 'It is trusted.',
      linkIds: [],
    },
  ],
  links: { 'display--furnace': 'Line display to Furnace' },
  ...differs,
});

export const holder = (differs: Partial<HolderDetail> = {}): HolderDetail => ({
  party: party('furnace', 'Furnace server'),
  access: {
    clientId: 'display',
    endpointUrl: 'opc.tcp://furnace:4840',
    userName: 'security',
    passwordState: 'kept',
    passwordMoves: null,
  },
  lists: [
    {
      list: 'trusted',
      thumbprint: thumbprintOf('A'),
      name: 'Line display (AAAAAAAA)',
      notAfter: '2030-01-01T00:00:00.000Z',
      since: day(1),
      until: day(20),
    },
    {
      list: 'rejected',
      thumbprint: thumbprintOf('B'),
      name: 'Old laptop (BBBBBBBB)',
      notAfter: '2030-01-01T00:00:00.000Z',
      since: day(2),
      until: null,
    },
  ],
  unreadable: [],
  crls: [],
  history: [
    { id: 7, at: day(3), actor: 'engineer', says: 'Changed over push management.', added: ['trusted: X'], removed: [] },
    { id: 6, at: day(2), actor: 'engineer', says: 'Found.', added: [], removed: ['trusted: Y'] },
  ],
  ...differs,
});

export const aside = (differs: Partial<SetAsideEntry> = {}): SetAsideEntry => ({
  holderId: 'furnace',
  holder: 'Furnace server',
  thumbprint: thumbprintOf('A'),
  certificate: summary('Maintenance laptop', { issuer: 'CN=Works Authority' }),
  since: day(1),
  claims: 'Maintenance laptop',
  known: 'the same',
  knownThumbprint: thumbprintOf('A'),
  differs: [],
  issuer: { thumbprint: thumbprintOf('C'), name: 'Works Authority' },
  unusual: ['It is new.'],
  blocks: [{ linkId: 'laptop--furnace', name: 'Laptop to Furnace' }],
  dismissed: null,
  ...differs,
});

const change = { kind: 'list-certificate', holderId: 'furnace', list: 'trusted', until: null } as const;
const plan = (strategy: 'direct' | 'authority', mean: number): TrustPlans['direct'] => ({
  strategy,
  count: 1,
  fitting: 1,
  changes: [
    {
      change: { ...change, thumbprint: thumbprintOf(strategy === 'direct' ? 'A' : 'C') },
      title: strategy === 'direct' ? 'Let Furnace trust the display' : 'Let Furnace trust the authority',
      target: 'Furnace server',
      why: 'It must.',
      linkIds: ['display--furnace'],
    },
  ],
  restartCount: strategy === 'direct' ? 0 : 1,
  restarts: strategy === 'direct' ? [] : ['Furnace server'],
  atRenewal: { most: 4, mean },
  remainderCount: 1,
  remainder: [{ linkId: 'crane', link: 'Display to Crane', says: 'Its lists have not been read yet.' }],
  turnCount: 1,
  mends: 1,
});
export const plans = (differs: Partial<TrustPlans> = {}): TrustPlans => ({
  links: 2,
  direct: plan('direct', 3.25),
  authority: plan('authority', 1),
  unread: ['Crane server'],
  ...differs,
});

export const horizonAt = Date.UTC(2026, 2, 1);
const dayMs = 86_400_000;
const ending = (
  id: string,
  name: string,
  days: number,
  links: string[],
  kind: HorizonView['endings'][number]['kind'] = 'application',
): HorizonView['endings'][number] => ({
  id,
  kind,
  subject: `CN=${name}`,
  begins: horizonAt - 100 * dayMs,
  ends: horizonAt + days * dayMs,
  applicationIds: [],
  linkIds: links,
  name,
  applications: [name],
  links,
});
export const horizonOf = (differs: Partial<HorizonView> = {}): HorizonView => ({
  at: horizonAt,
  endings: [
    ending('gone', 'Inspection server', -10, ['History to Inspection']),
    ending('soon', 'Gas meter server', 12, ['Energy to Gas', 'Desk to Gas']),
    ending('crl', 'CRL of Works Authority', 40, ['Energy to Gas'], 'crl'),
    ending('idle', 'Old laptop', 300, []),
  ],
  groups: [{ endingIds: ['soon', 'crl'], by: horizonAt + 12 * dayMs, says: 'Renew together:' }],
  ...differs,
});

export const authority = (differs: Partial<AuthorityView> = {}): AuthorityView => ({
  thumbprint: thumbprintOf('C'),
  name: 'Works Authority',
  certificate: summary('Works Authority', { isAuthority: true }),
  isCurrent: true,
  keyKept: true,
  crl: { number: 4, thisUpdate: day(1), nextUpdate: day(30), warning: 'Its next update is due in 9 days.' },
  issued: [
    {
      serialNumber: '0A',
      thumbprint: thumbprintOf('A'),
      application: 'Line display',
      issuedAt: day(1),
      revokedAt: null,
      reason: null,
    },
    {
      serialNumber: '0B',
      thumbprint: null,
      application: null,
      issuedAt: null,
      revokedAt: day(2),
      reason: 'keyCompromise',
    },
  ],
  requests: [],
  mayRenew: true,
  succession: null,
  ...differs,
});

export const certificate = (differs: Partial<CertificatePage> = {}): CertificatePage => ({
  certificate: summary('Inspection server'),
  pem: '-----BEGIN CERTIFICATE-----\n',
  firstSeen: day(1),
  unusual: [],
  lint: [],
  chain: [],
  missingIssuer: null,
  revoked: null,
  shownBy: [{ applicationId: 'inspection', name: 'Inspection server', now: true }],
  lies: [],
  links: [],
  meets: [
    { applicationId: 'history', name: 'History collector' },
    { applicationId: 'desk', name: 'Security desk' },
  ],
  waivers: [],
  relatives: [],
  ...differs,
});

export const ticket = (differs: Partial<PullTicket> = {}): PullTicket => ({
  id: 't1',
  applicationId: 'crane',
  application: 'Crane server',
  madeBy: 'engineer',
  madeAt: day(1),
  expiresAt: day(2),
  state: 'requested',
  asks: 'CN=Crane',
  ...differs,
});

export const line = (differs: Partial<OrderLine> = {}): OrderLine => ({
  position: 1,
  change: { ...change, thumbprint: thumbprintOf('A') },
  title: 'Let Furnace server trust Line display',
  target: 'Furnace server',
  before: 'not in the trusted list',
  after: 'in the trusted list',
  why: 'The link needs it.',
  way: 'push',
  restart: true,
  signedHere: false,
  wrote: true,
  undo: 'Remove it again.',
  linkIds: ['display--furnace'],
  state: 'waiting',
  says: null,
  by: null,
  at: null,
  provedAt: null,
  ...differs,
});

export const order = (differs: Partial<WorkOrder> = {}): WorkOrder => ({
  id: 'o1',
  title: 'Trust for the furnace',
  state: 'proposed',
  proposedBy: 'engineer',
  proposedAt: day(1),
  decidedBy: null,
  decidedAt: null,
  lines: [line()],
  ...differs,
});
