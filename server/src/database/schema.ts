import { sql } from 'drizzle-orm';
import {
  bigint,
  bigserial,
  boolean,
  customType,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  smallint,
  text,
  timestamp,
} from 'drizzle-orm/pg-core';
import type { Attempt, CaseActKind, QuietHours, RoundInterval } from '@loyal-hinge/core/casebook';
import type { ItemOrigin } from '@loyal-hinge/core/field';
import type { KeyKind } from '@loyal-hinge/core/issuing';
import type {
  ChosenEndpoint,
  ClassicCalls,
  WrittenSettings,
  ToldAccount,
  EntryException,
  EntryFloor,
  FactBody,
  LinkAssessment,
  LinkIdentity,
  LinkInPlant,
  LinkKindId,
  LinkState,
  NeededItem,
  NodeAttributes,
  OfferedEndpoint,
  PasswordTarget,
  Plant,
  ReportKind,
  RevocationReason,
  RuleSetFormat,
  ServiceKind,
  SecurityFloor,
  SecurityMode,
  SecurityPolicyName,
  ServerAccess,
  ServerReport,
  ServerSessions,
  StepId,
  TunnelSide,
  OrderChange,
  Verdict,
  WaivableStep,
} from '@loyal-hinge/core';
import type {
  FromOutpost,
  GatewayItems,
  OutpostKind,
  TunnelLimits,
  TunnelStatistics,
} from '@loyal-hinge/contract/line';
import type {
  DcomExport,
  EvidenceRow,
  ReadingRuleRow,
  Firewall,
  DcomView,
  CheckState,
  GatewayItemsWish,
  GiveException,
  GiveWaiver,
  HingeEvent,
  OrderLineState,
  PlaceOfGateway,
  ProposalKind,
  ProposalState,
  RecipientWay,
  RelayWish,
  RoundScope,
  Role,
  SnapshotState,
  WorkOrderState,
} from '@loyal-hinge/contract';

/** Everything of a link that a check is judged by; the plant’s other machines only serve hints. */
export type CheckedSubject = Omit<LinkInPlant, 'machines'>;

/** A password’s target, or the application whose key it is. */
export type SecretTarget = PasswordTarget | { readonly applicationUri: string };

/** The lists of an application by thumbprints and ids of CRLs. */
export interface ListedIds {
  readonly trusted: readonly string[];
  readonly issuers: readonly string[];
  readonly trustedCrls: readonly string[];
  readonly issuerCrls: readonly string[];
}

const instant = (name: string) => timestamp(name, { withTimezone: true, mode: 'string' });
const now = (name: string) => instant(name).notNull().defaultNow();

/** Settings of the whole installation, by key. */
export const settings = pgTable('settings', { key: text('key').primaryKey(), value: jsonb('value').notNull() });

export const zones = pgTable('zones', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  order: integer('order').notNull(),
  targetLevel: integer('target_level'),
});

export const machines = pgTable(
  'machines',
  {
    id: text('id').primaryKey(),
    zoneId: text('zone_id')
      .notNull()
      .references(() => zones.id),
    name: text('name').notNull(),
    description: text('description').notNull(),
    hostNames: text('host_names').array().notNull(),
    addresses: text('addresses').array().notNull(),
  },
  (table) => [
    index('machines_by_zone').on(table.zoneId),
    index('machines_by_name').on(table.name),
    index('machines_by_address').using('gin', table.addresses),
    index('machines_by_host').using('gin', sql`host_names_text(${table.hostNames}) gin_trgm_ops`),
  ],
);

export const applications = pgTable(
  'applications',
  {
    id: text('id').primaryKey(),
    machineId: text('machine_id')
      .notNull()
      .references(() => machines.id),
    kind: text('kind').$type<'server' | 'client'>().notNull(),
    name: text('name').notNull(),
    applicationUri: text('application_uri').notNull(),
    speaks: text('speaks').$type<LinkKindId>().notNull().default('ua'),
    ports: integer('ports').array().notNull(),
    securityPolicies: text('security_policies').array().$type<SecurityPolicyName[]>().notNull(),
    securityModes: text('security_modes').array().$type<SecurityMode[]>().notNull(),
  },
  (table) => [
    index('applications_by_machine').on(table.machineId),
    index('applications_by_uri').on(table.applicationUri),
    index('applications_by_name').on(table.name),
  ],
);

export const links = pgTable(
  'links',
  {
    id: text('id').primaryKey(),
    kind: text('kind').$type<LinkKindId>().notNull().default('ua'),
    name: text('name').notNull(),
    clientId: text('client_id')
      .notNull()
      .references(() => applications.id),
    serverId: text('server_id')
      .notNull()
      .references(() => applications.id),
    endpointUrl: text('endpoint_url').notNull(),
    pinnedAddress: text('pinned_address'),
    chosenEndpoint: jsonb('chosen_endpoint').$type<ChosenEndpoint>(),
    needs: jsonb('needs').$type<readonly NeededItem[]>().notNull(),
    identity: jsonb('identity').$type<LinkIdentity>().notNull(),
    floor: text('floor').$type<SecurityFloor>().notNull(),
    staleAfterMs: integer('stale_after_ms').notNull(),
    classic: jsonb('classic').$type<ClassicCalls>(),
  },
  (table) => [index('links_by_client').on(table.clientId), index('links_by_server').on(table.serverId)],
);

/** Keys, passwords and tokens, sealed with AES-256-GCM; the key is never in the database. */
export const secrets = pgTable('secrets', {
  name: text('name').primaryKey(),
  sealed: text('sealed').notNull(),
  /** The one target that it may be used for, bound to the sealed bytes; null: it is bound to its name alone. */
  target: jsonb('target').$type<SecretTarget>(),
  /** The newest target that its owner was given instead, and everybody who gave it one since; null and nobody: it has the same. */
  movedTo: jsonb('moved_to').$type<SecretTarget>(),
  movedBy: text('moved_by').array().notNull().default([]),
  /** A keyed digest that is the same for the same secret; null: it was kept before there were any. */
  mark: text('mark'),
});

/** What a machine’s exports said of DCOM, and what it prints of accounts, each time that somebody brought them. */
export const machineSettings = pgTable(
  'machine_settings',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    machineId: text('machine_id')
      .notNull()
      .references(() => machines.id, { onDelete: 'cascade' }),
    takenAt: now('taken_at'),
    takenBy: text('taken_by').notNull(),
    files: jsonb('files').$type<DcomExport['files']>().notNull(),
    settings: jsonb('settings').$type<WrittenSettings>().notNull(),
    accounts: jsonb('accounts').$type<readonly ToldAccount[]>().notNull(),
    faults: jsonb('faults').$type<DcomView['faults']>().notNull(),
  },
  (table) => [index('machine_settings_by_machine').on(table.machineId, table.id)],
);

/** Where the values of servers’ items come from. The device is named, and may be gone from the plant. */
export const itemOrigins = pgTable(
  'item_origins',
  {
    serverId: text('server_id')
      .notNull()
      .references(() => applications.id, { onDelete: 'cascade' }),
    path: text('path').notNull(),
    deviceId: text('device_id').notNull(),
    origin: jsonb('origin').$type<ItemOrigin>().notNull(),
    changedBy: text('changed_by').notNull(),
    changedAt: now('changed_at'),
  },
  (table) => [
    primaryKey({ columns: [table.serverId, table.path] }),
    index('item_origins_by_device').on(table.deviceId),
  ],
);

/** How lines of logs are read that have no form that is known. */
export const readingRules = pgTable('reading_rules', {
  id: text('id').primaryKey(),
  name: text('name').notNull().unique(),
  pattern: text('pattern').notNull(),
  machine: text('machine').notNull(),
  means: text('means').$type<ReadingRuleRow['means']>().notNull(),
  changedBy: text('changed_by').notNull(),
  changedAt: now('changed_at'),
});

/** Files that somebody brought: captures and logs. The files themselves lie in the data folder. */
export const evidence = pgTable(
  'evidence',
  {
    id: text('id').primaryKey(),
    name: text('name').notNull(),
    bytes: bigint('bytes', { mode: 'number' }).notNull(),
    received: bigint('received', { mode: 'number' }).notNull().default(0),
    state: text('state').$type<EvidenceRow['state']>().notNull(),
    form: text('form').$type<NonNullable<EvidenceRow['form']>>(),
    clock: jsonb('clock').$type<EvidenceRow['clock']>().notNull(),
    /** How much of it was read by now, in bytes. */
    readBytes: bigint('read_bytes', { mode: 'number' }).notNull().default(0),
    /** Of all of it, in hexadecimal: the same file is kept once. */
    sha256: text('sha256').unique(),
    items: integer('items').notNull().default(0),
    attempts: integer('attempts').notNull().default(0),
    notUnderstood: integer('not_understood').notNull().default(0),
    gaps: jsonb('gaps').$type<EvidenceRow['gaps']>().notNull().default([]),
    passedOver: jsonb('passed_over').$type<EvidenceRow['passedOver']>().notNull().default([]),
    fault: text('fault'),
    firstAt: instant('first_at'),
    lastAt: instant('last_at'),
    broughtBy: text('brought_by').notNull(),
    broughtAt: now('brought_at'),
    ruleId: text('rule_id').references(() => readingRules.id, { onDelete: 'set null' }),
  },
  (table) => [index('evidence_by_rule').on(table.ruleId)],
);

/** Attempts to reach somebody, as one file tells of them; in a part for each month in which files were brought. */
export const attempts = pgTable(
  'attempts',
  {
    id: bigserial('id', { mode: 'number' }).notNull(),
    /** As their file. */
    broughtAt: instant('brought_at').notNull(),
    evidenceId: text('evidence_id')
      .notNull()
      .references(() => evidence.id, { onDelete: 'cascade' }),
    startedAt: instant('started_at').notNull(),
    hasFailed: boolean('has_failed').notNull(),
    body: jsonb('body').$type<Attempt>().notNull(),
  },
  (table) => [
    primaryKey({ columns: [table.id, table.broughtAt] }),
    index('attempts_by_evidence').on(table.evidenceId),
    index('attempts_failed').on(table.hasFailed, table.startedAt),
  ],
);

/** What logs tell of changes at machines. */
export const happenings = pgTable(
  'happenings',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    evidenceId: text('evidence_id')
      .notNull()
      .references(() => evidence.id, { onDelete: 'cascade' }),
    at: instant('at').notNull(),
    computer: text('computer').notNull(),
    says: text('says').notNull(),
    position: bigint('position', { mode: 'number' }).notNull(),
  },
  (table) => [index('happenings_by_time').on(table.at), index('happenings_by_evidence').on(table.evidenceId)],
);

/** What people did about cases. */
export const caseActs = pgTable(
  'case_acts',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    /** What the attempts of the case have in common. */
    caseKey: text('case_key').notNull(),
    /** When the case had failed last as this was done: it belongs to the case that covers this moment. */
    aboutAt: instant('about_at').notNull(),
    kind: text('kind').$type<CaseActKind>().notNull(),
    at: now('at'),
    by: text('by').notNull(),
    text: text('text').notNull(),
    to: text('to'),
  },
  (table) => [index('case_acts_by_case').on(table.caseKey)],
);

/** Checks that come round by themselves. */
export const rounds = pgTable('rounds', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  scope: jsonb('scope').$type<RoundScope>().notNull(),
  everyMinutes: integer('every_minutes').$type<RoundInterval>().notNull(),
  at: text('at').notNull(),
  quiet: jsonb('quiet').$type<QuietHours>(),
  zone: text('zone').notNull(),
  perMinute: integer('per_minute').notNull(),
  isPaused: boolean('is_paused').notNull(),
  /** null: it is paused. */
  nextAt: instant('next_at'),
});

/** Each time that a round was begun. */
export const roundRuns = pgTable(
  'round_runs',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    roundId: text('round_id')
      .notNull()
      .references(() => rounds.id, { onDelete: 'cascade' }),
    begunAt: now('begun_at'),
    endedAt: instant('ended_at'),
    links: integer('links').notNull(),
    /** Links that were not asked for yet. */
    pending: text('pending').array().notNull(),
    askedBy: text('asked_by').notNull(),
  },
  (table) => [index('round_runs_by_round').on(table.roundId, table.id)],
);

/** Who is told when links fall and work again. */
export const recipients = pgTable('recipients', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  way: jsonb('way').$type<RecipientWay>().notNull(),
  groupMinutes: integer('group_minutes').notNull(),
  quiet: jsonb('quiet').$type<QuietHours>(),
  zone: text('zone').notNull(),
  isPaused: boolean('is_paused').notNull(),
  /** The number of the last span that was told. */
  toldUpTo: bigint('told_up_to', { mode: 'number' }).notNull(),
  lastToldAt: instant('last_told_at'),
  fault: text('fault'),
  /** How often in a row a message could not be sent. */
  failures: integer('failures').notNull().default(0),
  nextTryAt: instant('next_try_at'),
});

/** How links were seen by checks: a row for as long as nothing changes. Their numbers are their order. */
export const linkSpans = pgTable(
  'link_spans',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    linkId: text('link_id').notNull(),
    state: text('state').$type<LinkState>().notNull(),
    causeId: text('cause_id'),
    partedAt: text('parted_at').$type<StepId>(),
    title: text('title').notNull(),
    headline: text('headline').notNull(),
    /** When its first check ended, and its last. */
    fromAt: instant('from_at').notNull(),
    toAt: instant('to_at').notNull(),
    checks: integer('checks').notNull(),
    lastCheckId: text('last_check_id').notNull(),
  },
  (table) => [
    index('link_spans_by_link').on(table.linkId, table.id),
    index('link_spans_by_end').on(table.toAt),
    index('link_spans_parted').on(table.state, table.toAt),
  ],
);

/** Firewalls of machines, and those between zones. */
export const firewalls = pgTable(
  'firewalls',
  {
    id: text('id').primaryKey(),
    name: text('name').notNull(),
    machineId: text('machine_id').references(() => machines.id, { onDelete: 'cascade' }),
    interfaces: jsonb('interfaces').$type<Firewall['interfaces']>().notNull(),
  },
  (table) => [index('firewalls_by_machine').on(table.machineId)],
);

/** Which zone may open connections to which, and over which firewalls. */
export const conduits = pgTable(
  'conduits',
  {
    id: text('id').primaryKey(),
    name: text('name').notNull(),
    fromZoneId: text('from_zone_id')
      .notNull()
      .references(() => zones.id, { onDelete: 'cascade' }),
    toZoneId: text('to_zone_id')
      .notNull()
      .references(() => zones.id, { onDelete: 'cascade' }),
    firewallIds: text('firewall_ids').array().notNull(),
    targetLevel: integer('target_level'),
  },
  (table) => [index('conduits_by_from_zone').on(table.fromZoneId), index('conduits_by_to_zone').on(table.toZoneId)],
);

/** Services that machines use beside their links, and where they run. */
export const plantServices = pgTable(
  'plant_services',
  {
    id: text('id').primaryKey(),
    name: text('name').notNull(),
    kind: text('kind').$type<ServiceKind>().notNull(),
    machineId: text('machine_id')
      .notNull()
      .references(() => machines.id, { onDelete: 'cascade' }),
    port: integer('port'),
    zoneIds: text('zone_ids').array().notNull(),
  },
  (table) => [index('plant_services_by_machine').on(table.machineId)],
);

/** Rules of firewalls, as these wrote them; older ones stay for a while. */
export const firewallRules = pgTable(
  'firewall_rules',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    firewallId: text('firewall_id')
      .notNull()
      .references(() => firewalls.id, { onDelete: 'cascade' }),
    takenAt: now('taken_at'),
    takenBy: text('taken_by').notNull(),
    file: text('file').notNull(),
    format: text('format').$type<RuleSetFormat>().notNull(),
    rules: integer('rules').notNull(),
    text: text('text').notNull(),
  },
  (table) => [index('firewall_rules_by_firewall').on(table.firewallId, table.id)],
);

/** Processes of this product on other machines. */
export const outposts = pgTable(
  'outposts',
  {
    id: text('id').primaryKey(),
    kind: text('kind').$type<OutpostKind>().notNull(),
    name: text('name').notNull(),
    machineId: text('machine_id')
      .notNull()
      .references(() => machines.id, { onDelete: 'cascade' }),
    /** SHA-256 of its ticket’s secret; null: it has none that can be used. */
    ticketHash: text('ticket_hash').unique(),
    ticketUntil: instant('ticket_until'),
    /** PKCS#10 in Base64, while it waits to be signed and afterwards. */
    request: text('request'),
    isAsking: boolean('is_asking').notNull().default(false),
    authority: text('authority'),
    thumbprint: text('thumbprint'),
    /** Of the certificate before, by which it is known until it shows the new one. */
    formerThumbprint: text('former_thumbprint'),
    heardAt: instant('heard_at'),
    address: text('address'),
    /** The process that it is connected to; null: none. */
    processId: text('process_id'),
    /** What it told of itself last. */
    told: jsonb('told').$type<FromOutpost>(),
  },
  (table) => [index('outposts_by_machine').on(table.machineId)],
);

/** For which machines probes stand: links of their clients are checked from there. */
export const probeMachines = pgTable(
  'probe_machines',
  {
    machineId: text('machine_id')
      .primaryKey()
      .references(() => machines.id, { onDelete: 'cascade' }),
    outpostId: text('outpost_id')
      .notNull()
      .references(() => outposts.id, { onDelete: 'cascade' }),
  },
  (table) => [index('probe_machines_by_outpost').on(table.outpostId)],
);

/** Tunnels between two machines: one end listens, the other dials. */
export const tunnels = pgTable(
  'tunnels',
  {
    id: text('id').primaryKey(),
    name: text('name').notNull(),
    listeningId: text('listening_id')
      .notNull()
      .references(() => outposts.id, { onDelete: 'cascade' }),
    diallingId: text('dialling_id')
      .notNull()
      .references(() => outposts.id, { onDelete: 'cascade' }),
    address: text('address').notNull(),
    port: integer('port').notNull(),
    limits: jsonb('limits').$type<TunnelLimits>().notNull(),
  },
  (table) => [index('tunnels_by_listening').on(table.listeningId), index('tunnels_by_dialling').on(table.diallingId)],
);

/** Links that go through a tunnel: their clients dial its entrance. */
export const tunnelledLinks = pgTable(
  'tunnelled_links',
  {
    linkId: text('link_id')
      .primaryKey()
      .references(() => links.id, { onDelete: 'cascade' }),
    tunnelId: text('tunnel_id')
      .notNull()
      .references(() => tunnels.id, { onDelete: 'cascade' }),
    /** The end at the client’s side. */
    side: text('side').$type<TunnelSide>().notNull(),
    entranceAddress: text('entrance_address').notNull(),
    entrancePort: integer('entrance_port').notNull(),
  },
  (table) => [index('tunnelled_links_by_tunnel').on(table.tunnelId)],
);

/** What ends of tunnels told of themselves; old ones go. */
export const tunnelSamples = pgTable(
  'tunnel_samples',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    outpostId: text('outpost_id')
      .notNull()
      .references(() => outposts.id, { onDelete: 'cascade' }),
    at: now('at'),
    statistics: jsonb('statistics').$type<TunnelStatistics>().notNull(),
  },
  (table) => [index('tunnel_samples_by_outpost').on(table.outpostId, table.at)],
);

/** Gateways: outposts that are a client and a server of the plant. */
export const gateways = pgTable(
  'gateways',
  {
    outpostId: text('outpost_id')
      .primaryKey()
      .references(() => outposts.id, { onDelete: 'cascade' }),
    clientId: text('client_id')
      .notNull()
      .references(() => applications.id, { onDelete: 'cascade' }),
    serverId: text('server_id')
      .notNull()
      .references(() => applications.id, { onDelete: 'cascade' }),
    /** Where its face listens. */
    address: text('address').notNull(),
    port: integer('port').notNull(),
    places: jsonb('places').$type<readonly PlaceOfGateway[]>().notNull().default([]),
    /** What it is in the plant beside that, and where, by which class and name; null: it speaks no classic OPC. */
    classicClientId: text('classic_client_id').references(() => applications.id, { onDelete: 'set null' }),
    classicServerId: text('classic_server_id').references(() => applications.id, { onDelete: 'set null' }),
    mapperPort: integer('mapper_port'),
    clsid: text('clsid'),
  },
  (table) => [
    index('gateways_by_client').on(table.clientId),
    index('gateways_by_server').on(table.serverId),
    index('gateways_by_classic_client').on(table.classicClientId),
    index('gateways_by_classic_server').on(table.classicServerId),
  ],
);

export const gatewayRelays = pgTable(
  'gateway_relays',
  {
    gatewayId: text('gateway_id')
      .notNull()
      .references(() => gateways.outpostId, { onDelete: 'cascade' }),
    id: text('id').notNull(),
    relay: jsonb('relay').$type<RelayWish>().notNull(),
  },
  (table) => [primaryKey({ columns: [table.gatewayId, table.id] })],
);

/** Somebody looks at items of a gateway: whichever process it is connected to asks it, and writes the answer here. */
export const gatewayAsks = pgTable(
  'gateway_asks',
  {
    id: text('id').primaryKey(),
    gatewayId: text('gateway_id')
      .notNull()
      .references(() => gateways.outpostId, { onDelete: 'cascade' }),
    at: now('at'),
    wish: jsonb('wish').$type<GatewayItemsWish>().notNull(),
    answer: jsonb('answer').$type<GatewayItems>(),
  },
  (table) => [index('gateway_asks_by_gateway').on(table.gatewayId, table.at)],
);

/** What a server said of its endpoints when a check asked it last, as far as doors hang on it: nobody has to search the facts. */
export const serverEndpoints = pgTable('server_endpoints', {
  serverId: text('server_id')
    .primaryKey()
    .references(() => applications.id, { onDelete: 'cascade' }),
  checkId: text('check_id').notNull(),
  seenAt: instant('seen_at').notNull(),
  endpoints: jsonb('endpoints').$type<readonly OfferedEndpoint[]>().notNull(),
});

/** Which servers stand in for one, as it said when a session was open last; firewalls have to let its clients through to them. */
export const serverRedundancy = pgTable('server_redundancy', {
  serverId: text('server_id')
    .primaryKey()
    .references(() => applications.id, { onDelete: 'cascade' }),
  seenAt: instant('seen_at').notNull(),
  uris: text('uris').array().notNull(),
});

/** Where another floor than the plant’s holds for a while, and who answers for it. */
export const entryExceptions = pgTable(
  'entry_exceptions',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    of: text('of').$type<EntryException['of']>().notNull(),
    subjectId: text('subject_id').notNull(),
    floor: jsonb('floor').$type<EntryFloor>().notNull(),
    reason: text('reason').notNull(),
    until: instant('until').notNull(),
    givenBy: text('given_by').notNull(),
    givenAt: now('given_at'),
    /** When it ended: by its date, or because somebody ended it. */
    endedAt: instant('ended_at'),
    endedBy: text('ended_by'),
  },
  (table) => [index('entry_exceptions_by_subject').on(table.subjectId)],
);

/** What somebody may do with the nodes of a server, as it was seen when their session walked through them. */
export const rightsSnapshots = pgTable(
  'rights_snapshots',
  {
    id: text('id').primaryKey(),
    serverId: text('server_id')
      .notNull()
      .references(() => applications.id, { onDelete: 'cascade' }),
    /** Whose session it was: a user name; empty for anonymous. */
    userName: text('user_name').notNull(),
    /** The link by which it was opened. */
    linkId: text('link_id').notNull(),
    state: text('state').$type<SnapshotState>().notNull().default('waiting'),
    /** A pattern for paths: only what fits it was looked at; null: all nodes. */
    part: text('part'),
    /** Of the session; null before it was open. */
    mode: text('mode').$type<SecurityMode>(),
    /** Nodes that were seen so far. */
    nodes: integer('nodes').notNull().default(0),
    /** Why it is not whole; null: it is, or is not over. */
    says: text('says'),
    askedBy: text('asked_by').notNull(),
    askedAt: now('asked_at'),
    endedAt: instant('ended_at'),
    /** The process that takes it. */
    processId: text('process_id'),
  },
  (table) => [index('rights_snapshots_by_server').on(table.serverId, table.askedAt)],
);

/** A node of a snapshot, with what its attributes said; numbers as they came over the wire. */
export const rightsNodes = pgTable(
  'rights_nodes',
  {
    snapshotId: text('snapshot_id')
      .notNull()
      .references(() => rightsSnapshots.id, { onDelete: 'cascade' }),
    nodeId: text('node_id').notNull(),
    path: text('path').array().notNull(),
    nodeClass: text('node_class').$type<NodeAttributes['nodeClass']>().notNull(),
    accessLevel: smallint('access_level'),
    userAccessLevel: smallint('user_access_level'),
    userPermissions: bigint('user_permissions', { mode: 'number' }),
    accessRestrictions: integer('access_restrictions'),
    userWriteMask: bigint('user_write_mask', { mode: 'number' }),
    userExecutable: boolean('user_executable'),
  },
  (table) => [primaryKey({ columns: [table.snapshotId, table.nodeId] })],
);

/** What servers have said of themselves in audit events: reported, and seen by nobody else. */
export const serverReports = pgTable(
  'server_reports',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    serverId: text('server_id')
      .notNull()
      .references(() => applications.id, { onDelete: 'cascade' }),
    /** By the server’s clock. */
    at: instant('at').notNull(),
    kind: text('kind').$type<ReportKind>().notNull(),
    outcome: text('outcome').$type<ServerReport['outcome']>().notNull(),
    says: text('says').notNull(),
    /** Name of the status code by which it was refused. */
    code: text('code'),
    /** As the server calls the user; null: it does not. */
    userName: text('user_name'),
    /** Of the certificate that it names. */
    thumbprint: text('thumbprint'),
    heardAt: now('heard_at'),
  },
  (table) => [index('server_reports_by_server').on(table.serverId, table.id)],
);

/** Certificates that were seen or given, by thumbprint; DER in Base64. */
export const certificates = pgTable('certificates', {
  thumbprint: text('thumbprint').primaryKey(),
  der: text('der').notNull(),
  firstSeen: now('first_seen'),
});

/** The certificate by which a client application of ours is known. */
export const clientCertificates = pgTable(
  'client_certificates',
  {
    applicationId: text('application_id').primaryKey(),
    thumbprint: text('thumbprint')
      .notNull()
      .references(() => certificates.thumbprint),
  },
  (table) => [index('client_certificates_by_certificate').on(table.thumbprint)],
);

/** Certificates that an application was seen with, or was given: the newest is the one that it shows. */
export const applicationCertificates = pgTable(
  'application_certificates',
  {
    applicationId: text('application_id').notNull(),
    thumbprint: text('thumbprint')
      .notNull()
      .references(() => certificates.thumbprint),
    firstSeen: now('first_seen'),
    lastSeen: now('last_seen'),
  },
  (table) => [
    primaryKey({ columns: [table.applicationId, table.thumbprint] }),
    index('application_certificates_by_certificate').on(table.thumbprint),
  ],
);

/** How the lists of an application can be changed, where that is not by the product alone. */
export const trustWays = pgTable('trust_ways', {
  applicationId: text('application_id').primaryKey(),
  way: text('way').$type<'push' | 'files'>().notNull(),
  /** Over push management: which of our clients signs in, where and as whom. */
  clientId: text('client_id'),
  endpointUrl: text('endpoint_url'),
  userName: text('user_name'),
  /** Whether ApplyChanges was required when lists were last written. */
  restarts: boolean('restarts').notNull().default(false),
});

/** The number of a transaction, of those that never come again. */
const transactionId = customType<{ data: string }>({ dataType: () => 'xid8' });

/**
 * What trust is put together from, and the transactions that changed it: whoever keeps it in memory reads what is newer.
 * Rows are only added, so that nobody waits here for anybody; of each part the newest one stays.
 */
export const trustVersions = pgTable(
  'trust_versions',
  {
    part: text('part').$type<'application' | 'link' | 'certificate' | 'crl' | 'plant'>().notNull(),
    /** Empty for the whole plant. */
    id: text('id').notNull(),
    changedBy: transactionId('changed_by').notNull(),
  },
  (table) => [index('trust_versions_by_change').on(table.changedBy)],
);

/** When and how the lists of an application were last read, or why they could not be. */
export const trustReadings = pgTable('trust_readings', {
  applicationId: text('application_id').primaryKey(),
  /** null: never read. */
  readAt: instant('read_at'),
  source: text('source').$type<'tried' | 'reported'>(),
  by: text('by').notNull(),
  triedAt: now('tried_at'),
  /** Why the newest try failed; null where it did not. */
  fault: text('fault'),
  /** Why CRLs and certificates that lay in the lists then can’t be read; they are not kept. */
  unreadableCrls: text('unreadable_crls').array().notNull().default([]),
  unreadableCertificates: text('unreadable_certificates').array().notNull().default([]),
});

/** What lies in the lists of an application, as far as it is known. */
export const trustEntries = pgTable(
  'trust_entries',
  {
    applicationId: text('application_id').notNull(),
    list: text('list').$type<'trusted' | 'issuers' | 'rejected'>().notNull(),
    thumbprint: text('thumbprint')
      .notNull()
      .references(() => certificates.thumbprint),
    /** Since when it is known to lie there. */
    since: now('since'),
    /** When a temporary trust ends by itself. */
    until: instant('until'),
  },
  (table) => [
    primaryKey({ columns: [table.applicationId, table.list, table.thumbprint] }),
    index('trust_entries_by_certificate').on(table.thumbprint),
  ],
);

/** CRLs that were seen or given, by SHA-256; DER in Base64. */
export const crls = pgTable('crls', {
  id: text('id').primaryKey(),
  der: text('der').notNull(),
  firstSeen: now('first_seen'),
});

export const trustCrls = pgTable(
  'trust_crls',
  {
    applicationId: text('application_id').notNull(),
    list: text('list').$type<'trusted' | 'issuers'>().notNull(),
    crlId: text('crl_id')
      .notNull()
      .references(() => crls.id),
  },
  (table) => [
    primaryKey({ columns: [table.applicationId, table.list, table.crlId] }),
    index('trust_crls_by_crl').on(table.crlId),
  ],
);

/** Every change of lists that was seen or made, with the lists before and after it. Append-only. */
export const trustHistory = pgTable(
  'trust_history',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    applicationId: text('application_id').notNull(),
    at: now('at'),
    actor: text('actor').notNull(),
    says: text('says').notNull(),
    before: jsonb('before').$type<ListedIds>().notNull(),
    after: jsonb('after').$type<ListedIds>().notNull(),
  },
  (table) => [index('trust_history_by_application').on(table.applicationId, table.id)],
);

/** Certificates lying set aside that somebody has looked at and put off. */
export const dismissals = pgTable(
  'dismissals',
  {
    applicationId: text('application_id').notNull(),
    thumbprint: text('thumbprint').notNull(),
    by: text('by').notNull(),
    at: now('at'),
  },
  (table) => [primaryKey({ columns: [table.applicationId, table.thumbprint] })],
);

/** Steps of the validation that an application passes over for one certificate, until a date; somebody answers for each. */
export const waivers = pgTable(
  'waivers',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    holderId: text('holder_id').notNull(),
    thumbprint: text('thumbprint')
      .notNull()
      .references(() => certificates.thumbprint),
    step: text('step').$type<WaivableStep>().notNull(),
    until: instant('until').notNull(),
    why: text('why').notNull(),
    givenBy: text('given_by').notNull(),
    givenAt: now('given_at'),
    /** When it ended: by its date, or because somebody took it back. */
    endedAt: instant('ended_at'),
    endedBy: text('ended_by'),
  },
  (table) => [index('waivers_by_certificate').on(table.thumbprint), index('waivers_by_holder').on(table.holderId)],
);

/** Authorities of the plant. The key, encrypted with a passphrase that is never kept, lies among the secrets. */
export const authorities = pgTable(
  'authorities',
  {
    thumbprint: text('thumbprint')
      .primaryKey()
      .references(() => certificates.thumbprint),
    /** null: the key is kept elsewhere. */
    keyKind: text('key_kind').$type<KeyKind>(),
    /** Number of the newest CRL. */
    crlNumber: integer('crl_number').notNull().default(0),
    crlId: text('crl_id').references(() => crls.id),
    isCurrent: boolean('is_current').notNull().default(true),
    since: now('since'),
  },
  (table) => [index('authorities_by_crl').on(table.crlId)],
);

/** What an authority has signed or revoked. */
export const issued = pgTable(
  'issued',
  {
    authority: text('authority').notNull(),
    serialNumber: text('serial_number').notNull(),
    thumbprint: text('thumbprint'),
    applicationId: text('application_id'),
    issuedAt: instant('issued_at'),
    revokedAt: instant('revoked_at'),
    /** The line of a work order that it was signed for: gone on with, the line takes it instead of another one. */
    forLine: text('for_line'),
    reason: text('reason').$type<RevocationReason>(),
  },
  (table) => [primaryKey({ columns: [table.authority, table.serialNumber] })],
);

/** Requests that an authority kept elsewhere is to sign, until its certificate is brought back. */
export const signingRequests = pgTable('signing_requests', {
  id: text('id').primaryKey(),
  authority: text('authority').notNull(),
  applicationId: text('application_id').notNull(),
  /** PKCS#10 in Base64. */
  request: text('request').notNull(),
  madeBy: text('made_by').notNull(),
  madeAt: now('made_at'),
  /** The certificate that came back; null where nobody waited for it any more. */
  thumbprint: text('thumbprint'),
  settledAt: instant('settled_at'),
});

/** One-time tickets with which an application fetches its certificate and trust list by itself; the token is kept only as a hash. */
export const pullTickets = pgTable('pull_tickets', {
  id: text('id').primaryKey(),
  tokenHash: text('token_hash').notNull().unique(),
  applicationId: text('application_id').notNull(),
  madeBy: text('made_by').notNull(),
  madeAt: now('made_at'),
  expiresAt: instant('expires_at').notNull(),
  /** PKCS#10 in Base64, once it was handed in. */
  request: text('request'),
  requestedAt: instant('requested_at'),
  /** The certificate, once it was signed. */
  thumbprint: text('thumbprint'),
  authority: text('authority'),
  fetchedAt: instant('fetched_at'),
});

/** Ordered lists of changes: proposed, approved, carried out, proved, undone. */
export const workOrders = pgTable('work_orders', {
  id: text('id').primaryKey(),
  title: text('title').notNull(),
  state: text('state').$type<WorkOrderState>().notNull(),
  proposedBy: text('proposed_by').notNull(),
  proposedAt: now('proposed_at'),
  decidedBy: text('decided_by'),
  decidedAt: instant('decided_at'),
  /** The server process that carries it out. */
  serverId: text('server_id'),
});

/** One change of a work order. A line is claimed before it is carried out, so that it never runs twice. */
export const orderLines = pgTable(
  'order_lines',
  {
    orderId: text('order_id')
      .notNull()
      .references(() => workOrders.id),
    position: integer('position').notNull(),
    change: jsonb('change').$type<OrderChange>().notNull(),
    why: text('why').notNull(),
    linkIds: text('link_ids').array().notNull(),
    state: text('state').$type<OrderLineState>().notNull(),
    /** What came of it, in words. */
    says: text('says'),
    restarted: boolean('restarted').notNull().default(false),
    /** False where all was so already: there is nothing to undo then. */
    wrote: boolean('wrote').notNull().default(true),
    by: text('by'),
    at: instant('at'),
    /** The server process that claimed it. */
    serverId: text('server_id'),
    provedAt: instant('proved_at'),
  },
  (table) => [
    primaryKey({ columns: [table.orderId, table.position] }),
    index('order_lines_by_holder').on(sql`(${table.change}->>'holderId')`),
    index('order_lines_by_state').on(table.state),
  ],
);

/** What a proposal would do when a second person accepts it. */
export type ProposalBody =
  | { readonly kind: 'plant'; readonly plant: Plant }
  | { readonly kind: 'waiver'; readonly wish: GiveWaiver }
  | { readonly kind: 'settings'; readonly approvedByAnother: boolean }
  | { readonly kind: 'floor'; readonly floor: EntryFloor }
  | { readonly kind: 'exception'; readonly wish: GiveException };

/** What waits for a second person beside the work orders. */
export const proposals = pgTable(
  'proposals',
  {
    id: text('id').primaryKey(),
    kind: text('kind').$type<ProposalKind>().notNull(),
    title: text('title').notNull(),
    says: text('says').array().notNull(),
    body: jsonb('body').$type<ProposalBody>().notNull(),
    state: text('state').$type<ProposalState>().notNull().default('waiting'),
    proposedBy: text('proposed_by').notNull(),
    proposedAt: now('proposed_at'),
    decidedBy: text('decided_by'),
    decidedAt: instant('decided_at'),
  },
  (table) => [index('proposals_by_time').on(table.proposedAt)],
);

export const checks = pgTable(
  'checks',
  {
    id: text('id').primaryKey(),
    linkId: text('link_id').notNull(),
    state: text('state').$type<CheckState>().notNull(),
    askedBy: text('asked_by').notNull(),
    askedAt: now('asked_at'),
    begunAt: instant('begun_at'),
    endedAt: instant('ended_at'),
    reason: text('reason'),
    found: text('found').$type<LinkAssessment['state']>(),
    /** The link and its ends as they were when the check began: what was found is judged by them, not by later settings. */
    subject: jsonb('subject').$type<CheckedSubject>(),
    /** The server process that runs it. */
    serverId: text('server_id'),
    /** Items that a person wants to see written with the value that they have; null: nothing is written. */
    writes: jsonb('writes').$type<{ readonly paths: readonly string[]; readonly by: string; readonly why: string }>(),
  },
  (table) => [
    index('checks_by_link').on(table.linkId, table.askedAt),
    index('checks_by_state').on(table.state),
    index('checks_by_end').on(table.endedAt),
  ],
);

const factColumns = () => ({
  id: text('id').notNull(),
  position: integer('position').notNull(),
  checkId: text('check_id').notNull(),
  linkId: text('link_id').notNull(),
  source: text('source').$type<'tried' | 'reckoned' | 'reported'>().notNull(),
  at: instant('at').notNull(),
  body: jsonb('body').$type<FactBody>().notNull(),
});

/** Append-only, a part a month: old months are dropped as a whole (`forget_facts`). */
export const facts = pgTable('facts', factColumns(), (table) => [
  primaryKey({ columns: [table.checkId, table.position, table.at] }),
]);

/** Facts of dropped months that a verdict of today rests on. */
export const keptFacts = pgTable('kept_facts', factColumns(), (table) => [
  primaryKey({ columns: [table.checkId, table.position, table.at] }),
]);

/** What the newest check of a link amounts to. Derived: it may be thrown away and made again. */
export const assessments = pgTable(
  'assessments',
  {
    linkId: text('link_id')
      .primaryKey()
      .references(() => links.id, { onDelete: 'cascade' }),
    checkId: text('check_id').notNull(),
    at: instant('at').notNull(),
    body: jsonb('body').$type<LinkAssessment>().notNull(),
    // What boards show of it, beside it, so that no body is read for them.
    state: text('state').$type<LinkState>().notNull(),
    headline: text('headline').notNull(),
    partedAt: text('parted_at').$type<StepId>(),
    leadingCause: text('leading_cause'),
    verdicts: text('verdicts').array().$type<Verdict[]>().notNull(),
  },
  (table) => [index('assessments_by_check').on(table.checkId)],
);

/** The links as their board shows them, one row a link. The database keeps it by itself (`board_follow`), whatever is changed. */
export const board = pgTable(
  'board',
  {
    linkId: text('link_id')
      .primaryKey()
      .references(() => links.id, { onDelete: 'cascade' }),
    kind: text('kind').$type<LinkKindId>().notNull(),
    name: text('name').notNull(),
    client: text('client').notNull(),
    clientZone: text('client_zone').notNull(),
    server: text('server').notNull(),
    serverZone: text('server_zone').notNull(),
    /** The machine of the server. */
    machineId: text('machine_id').notNull(),
    endpointUrl: text('endpoint_url').notNull(),
    state: text('state').$type<LinkState>().notNull(),
    /** What needs somebody first stands first. */
    rank: smallint('rank').notNull(),
    /** The number of the step that fails, or of the first weak one: what fails at the same place stands together. */
    place: smallint('place').notNull(),
    headline: text('headline').notNull(),
    partedAt: text('parted_at').$type<StepId>(),
    leadingCause: text('leading_cause'),
    /** Empty: never checked. */
    verdicts: text('verdicts').array().$type<Verdict[]>().notNull(),
    checkedAt: instant('checked_at'),
    /** All that is searched, in small letters. */
    search: text('search').notNull(),
  },
  (table) => [
    index('board_by_place').on(table.rank, table.place, table.name, table.linkId),
    index('board_by_name').on(table.name, table.linkId),
    index('board_by_server').on(table.server, table.name, table.linkId),
    index('board_by_time').on(table.checkedAt, table.linkId),
    index('board_search').using('gin', sql`${table.search} gin_trgm_ops`),
  ],
);

/** What browsers are told, in order, a part a day. */
export const events = pgTable(
  'events',
  {
    id: bigserial('id', { mode: 'number' }).notNull(),
    at: now('at'),
    body: jsonb('body').$type<HingeEvent>().notNull(),
  },
  (table) => [primaryKey({ columns: [table.id, table.at] })],
);

export const people = pgTable('people', {
  name: text('name').primaryKey(),
  role: text('role').$type<Role>().notNull(),
  passwordHash: text('password_hash').notNull(),
  /** Somebody else gave the password. */
  mustChangePassword: boolean('must_change_password').notNull().default(false),
  disabledAt: instant('disabled_at'),
  lastSignedInAt: instant('last_signed_in_at'),
  /** Since when codes are asked for; their secret lies among the secrets. */
  secondFactorSince: instant('second_factor_since'),
  /** The newest time step (RFC 6238 §4.2) whose code was used: none is good twice. */
  lastCodeStep: integer('last_code_step'),
});

/** Recovery codes that were not used yet, as hashes: they are random enough to need no salt. */
export const recoveryCodes = pgTable(
  'recovery_codes',
  {
    person: text('person')
      .notNull()
      .references(() => people.name, { onDelete: 'cascade' }),
    codeHash: text('code_hash').notNull(),
  },
  (table) => [primaryKey({ columns: [table.person, table.codeHash] })],
);

/** The server processes that run on these data now. */
export const serverProcesses = pgTable('server_processes', {
  id: text('id').primaryKey(),
  host: text('host').notNull(),
  pid: integer('pid').notNull(),
  /** When the process began, as its computer counts: tells it from a later one of the same number. */
  began: text('began').notNull(),
  seenAt: now('seen_at'),
});

/** Machines that are dialled now, each by one at a time. A lock falls with the process that holds it. */
export const machineLocks = pgTable(
  'machine_locks',
  {
    machineId: text('machine_id').primaryKey(),
    serverId: text('server_id')
      .notNull()
      .references(() => serverProcesses.id, { onDelete: 'cascade' }),
    holder: text('holder').notNull(),
    /** Held for as long as a person likes; everything else is over soon. */
    byPerson: boolean('by_person').notNull().default(false),
    since: now('since'),
  },
  (table) => [index('machine_locks_by_server').on(table.serverId)],
);

/** Sessions of people; the cookie’s value is kept only as a hash. */
export const signIns = pgTable(
  'sign_ins',
  {
    cookieHash: text('cookie_hash').primaryKey(),
    person: text('person')
      .notNull()
      .references(() => people.name, { onDelete: 'cascade' }),
    token: text('token').notNull(),
    expiresAt: instant('expires_at').notNull(),
    /** What it is called by in lists. */
    id: text('id')
      .notNull()
      .unique()
      .default(sql`gen_random_uuid()::text`),
    since: now('since'),
    seenAt: now('seen_at'),
    address: text('address').notNull().default(''),
    browser: text('browser').notNull().default(''),
  },
  (table) => [index('sign_ins_by_person').on(table.person)],
);

/**
 * How signing in with each account went last, over all links that use it. An account is a user name at an application; the
 * empty name is anonymous.
 */
export const accountTries = pgTable(
  'account_tries',
  {
    applicationUri: text('application_uri').notNull(),
    userName: text('user_name').notNull(),
    signedInAt: instant('signed_in_at'),
    /** The link by which it was; a name where it was none of the plant’s. */
    signedInBy: text('signed_in_by'),
    refusedAt: instant('refused_at'),
    code: text('code').notNull().default(''),
    /** In a row since it was last let in. */
    refusals: integer('refusals').notNull().default(0),
    /** A keyed digest of the password that was refused last, and how often in a row that was. */
    mark: text('mark').notNull().default(''),
    sameRefusals: integer('same_refusals').notNull().default(0),
  },
  (table) => [primaryKey({ columns: [table.applicationUri, table.userName] })],
);

/** Certificates with which links sign in as users, by their names in the plant; their keys are sealed secrets. */
export const userCertificates = pgTable(
  'user_certificates',
  {
    name: text('name').primaryKey(),
    thumbprint: text('thumbprint')
      .notNull()
      .references(() => certificates.thumbprint),
    /** Thumbprints of those above it that came with it. */
    above: text('above').array().notNull().default([]),
    setAt: instant('set_at').notNull(),
    setBy: text('set_by').notNull(),
  },
  (table) => [index('user_certificates_by_thumbprint').on(table.thumbprint)],
);

/** Roles and users of servers, as an administrator read them: a row each time they were other than before. */
export const accessReadings = pgTable(
  'access_readings',
  {
    serverId: text('server_id')
      .notNull()
      .references(() => applications.id, { onDelete: 'cascade' }),
    readAt: instant('read_at').notNull(),
    /** When they were last read, and still the same. */
    seenAt: instant('seen_at').notNull(),
    access: jsonb('access')
      .$type<Omit<ServerAccess, 'userCertificates'> & Partial<Pick<ServerAccess, 'userCertificates'>>>()
      .notNull(),
  },
  (table) => [primaryKey({ columns: [table.serverId, table.readAt] })],
);

/** Who was connected to servers when their roles and users were read last. */
export const serverSessions = pgTable('server_sessions', {
  serverId: text('server_id')
    .primaryKey()
    .references(() => applications.id, { onDelete: 'cascade' }),
  readAt: instant('read_at').notNull(),
  sessions: jsonb('sessions').$type<ServerSessions>().notNull(),
});

/** Servers whose roles and users could not be read when that was tried last, and why. */
export const accessUnread = pgTable('access_unread', {
  serverId: text('server_id')
    .primaryKey()
    .references(() => applications.id, { onDelete: 'cascade' }),
  at: instant('at').notNull(),
  says: text('says').notNull(),
});

/** Passwords of accounts that work orders set; each is kept sealed under its id. */
export const accountPasswords = pgTable(
  'account_passwords',
  {
    id: text('id').primaryKey(),
    serverId: text('server_id')
      .notNull()
      .references(() => applications.id, { onDelete: 'cascade' }),
    userName: text('user_name').notNull(),
    madeBy: text('made_by').notNull(),
    madeAt: now('made_at'),
    /** When it was about to be set at the server: it may hold there since. */
    sentAt: instant('sent_at'),
  },
  (table) => [index('account_passwords_by_account').on(table.serverId, table.userName)],
);

/** Heads of the trail, sealed with a key that the database doesn’t have: the newest of each day. */
export const auditSeals = pgTable('audit_seals', {
  /** As in 2026-03-01, UTC. */
  day: text('day').primaryKey(),
  sequence: bigint('sequence', { mode: 'number' }).notNull(),
  hash: text('hash').notNull(),
  at: text('at').notNull(),
  keyId: text('key_id').notNull(),
  seal: text('seal').notNull(),
});

/** Append-only, each row chained to the one before by its hash. */
export const audit = pgTable(
  'audit',
  {
    sequence: bigserial('sequence', { mode: 'number' }).primaryKey(),
    at: text('at').notNull(),
    actor: text('actor').notNull(),
    action: text('action').notNull(),
    subject: text('subject').notNull(),
    details: jsonb('details').$type<Record<string, unknown>>().notNull(),
    previousHash: text('previous_hash').notNull(),
    hash: text('hash').notNull(),
  },
  (table) => [
    index('audit_by_subject').on(table.subject, table.sequence),
    index('audit_by_actor').on(table.actor, table.sequence),
  ],
);
