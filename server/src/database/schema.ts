import {
  bigserial,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  timestamp,
  uniqueIndex,
} from 'drizzle-orm/pg-core';
import type {
  ChosenEndpoint,
  FactBody,
  LinkAssessment,
  LinkIdentity,
  LinkInPlant,
  NeededItem,
  SecurityFloor,
  SecurityMode,
  SecurityPolicyName,
} from '@loyal-hinge/core';
import type { CheckState, HingeEvent, Role } from '@loyal-hinge/contract';

/** Everything of a link that a check is judged by; the plant’s other machines only serve hints. */
export type CheckedSubject = Omit<LinkInPlant, 'machines'>;

const instant = (name: string) => timestamp(name, { withTimezone: true, mode: 'string' });
const now = (name: string) => instant(name).notNull().defaultNow();

/** Settings of the whole installation, by key. */
export const settings = pgTable('settings', { key: text('key').primaryKey(), value: jsonb('value').notNull() });

export const zones = pgTable('zones', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  order: integer('order').notNull(),
});

export const machines = pgTable('machines', {
  id: text('id').primaryKey(),
  zoneId: text('zone_id')
    .notNull()
    .references(() => zones.id),
  name: text('name').notNull(),
  description: text('description').notNull(),
  hostNames: text('host_names').array().notNull(),
  addresses: text('addresses').array().notNull(),
});

export const applications = pgTable('applications', {
  id: text('id').primaryKey(),
  machineId: text('machine_id')
    .notNull()
    .references(() => machines.id),
  kind: text('kind').$type<'server' | 'client'>().notNull(),
  name: text('name').notNull(),
  applicationUri: text('application_uri').notNull(),
  ports: integer('ports').array().notNull(),
  securityPolicies: text('security_policies').array().$type<SecurityPolicyName[]>().notNull(),
  securityModes: text('security_modes').array().$type<SecurityMode[]>().notNull(),
});

export const links = pgTable('links', {
  id: text('id').primaryKey(),
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
});

/** Keys, passwords and tokens, sealed with AES-256-GCM; the key is never in the database. */
export const secrets = pgTable('secrets', { name: text('name').primaryKey(), sealed: text('sealed').notNull() });

/** Certificates that were seen or given, by thumbprint; DER in Base64. */
export const certificates = pgTable('certificates', {
  thumbprint: text('thumbprint').primaryKey(),
  der: text('der').notNull(),
  firstSeen: now('first_seen'),
});

/** The certificate by which a client application of ours is known. */
export const clientCertificates = pgTable('client_certificates', {
  applicationId: text('application_id').primaryKey(),
  thumbprint: text('thumbprint')
    .notNull()
    .references(() => certificates.thumbprint),
});

/** What lies in the trust list of a client application of ours. */
export const trustEntries = pgTable(
  'trust_entries',
  {
    applicationId: text('application_id').notNull(),
    list: text('list').$type<'trusted' | 'issuers'>().notNull(),
    thumbprint: text('thumbprint')
      .notNull()
      .references(() => certificates.thumbprint),
    since: now('since'),
  },
  (table) => [primaryKey({ columns: [table.applicationId, table.list, table.thumbprint] })],
);

/** The stand-ins’ own administrative doors; a stand-in for push management. */
export const standInDoors = pgTable('stand_in_doors', {
  applicationId: text('application_id').primaryKey(),
  url: text('url').notNull(),
});

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
  },
  (table) => [index('checks_by_link').on(table.linkId, table.askedAt), index('checks_by_state').on(table.state)],
);

/** Append-only: a trigger refuses changes. */
export const facts = pgTable(
  'facts',
  {
    id: text('id').primaryKey(),
    position: integer('position').notNull(),
    checkId: text('check_id').notNull(),
    linkId: text('link_id').notNull(),
    source: text('source').$type<'tried' | 'reckoned' | 'reported'>().notNull(),
    at: instant('at').notNull(),
    body: jsonb('body').$type<FactBody>().notNull(),
  },
  (table) => [uniqueIndex('facts_by_check').on(table.checkId, table.position)],
);

/** What the newest check of a link amounts to. Derived: it may be thrown away and made again. */
export const assessments = pgTable('assessments', {
  linkId: text('link_id').primaryKey(),
  checkId: text('check_id').notNull(),
  at: instant('at').notNull(),
  body: jsonb('body').$type<LinkAssessment>().notNull(),
});

/** What browsers are told, in order. */
export const events = pgTable('events', {
  id: bigserial('id', { mode: 'number' }).primaryKey(),
  at: now('at'),
  body: jsonb('body').$type<HingeEvent>().notNull(),
});

export const people = pgTable('people', {
  name: text('name').primaryKey(),
  role: text('role').$type<Role>().notNull(),
  passwordHash: text('password_hash').notNull(),
});

/** Sessions of people; the cookie’s value is kept only as a hash. */
export const signIns = pgTable('sign_ins', {
  cookieHash: text('cookie_hash').primaryKey(),
  person: text('person')
    .notNull()
    .references(() => people.name, { onDelete: 'cascade' }),
  token: text('token').notNull(),
  expiresAt: instant('expires_at').notNull(),
});

/** Append-only, each row chained to the one before by its hash. */
export const audit = pgTable('audit', {
  sequence: bigserial('sequence', { mode: 'number' }).primaryKey(),
  at: text('at').notNull(),
  actor: text('actor').notNull(),
  action: text('action').notNull(),
  subject: text('subject').notNull(),
  details: jsonb('details').$type<Record<string, unknown>>().notNull(),
  previousHash: text('previous_hash').notNull(),
  hash: text('hash').notNull(),
});
