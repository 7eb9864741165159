import * as z from 'zod';
import { modbusTables, mostUnit, placesInTable } from '@loyal-hinge/core/field';
import { gatewayConfiguration, gatewayItems, gatewayStatistics } from './gateway.js';
import { tunnelConfiguration, tunnelStatistics } from './tunnel.js';

/**
 * What goes over the one connection between an outpost and the server: one JSON object a line, both ways (docs/formats.md).
 * An outpost is a process of this product on another machine.
 */
export const outpostProtocol = 'loyal-hinge-outpost-1';

/** No line is longer, whoever sends it: what a check needs holds all certificates and CRLs that a client trusts. */
export const longestLine = 32 * 1024 * 1024;
/** A sign of life is sent this often, and who sends none for thrice as long is taken for gone. */
export const aliveMs = 10_000;

export const outpostKinds = ['tunnel-end', 'probe', 'gateway'] as const;
export type OutpostKind = (typeof outpostKinds)[number];

const pem = z.string().max(100_000);
const says = z.string().max(2_000);
const version = z.string().max(40);
/** Names what an outpost shall hold: another one, something else. */
const revision = z.string().max(64);

/** An id, as it was given by the server. */
const name = z.string().max(80);
const count = z.int().min(0);
/** JSON in which bytes and maps have forms of their own. */
const packed = z.unknown();
/** What a probe asks during a walk, because only the server knows. */
export const probeAsks = [
  'may-sign-in',
  'signed-in',
  'seen-by-others',
  'server-lists',
  'passage',
  'redundant',
  'at-device',
  'left-device',
] as const;
export type ProbeAsk = (typeof probeAsks)[number];

/** What came of a request to a device, as whoever read it saw it (field/src/modbus/line.ts). */
const asked = z.discriminatedUnion('outcome', [
  z.strictObject({
    outcome: z.literal('values'),
    ms: z.number(),
    values: z.array(z.int().min(0).max(0xffff)).max(2_000).readonly(),
  }),
  z.strictObject({ outcome: z.literal('exception'), ms: z.number(), code: z.int().min(0).max(255) }),
  z.strictObject({ outcome: z.literal('malformed'), ms: z.number(), why: says }),
  z.strictObject({ outcome: z.literal('other-transaction'), ms: z.number(), transaction: count }),
  z.strictObject({ outcome: z.enum(['silent', 'closed']), ms: z.number(), received: count }),
  z.strictObject({ outcome: z.enum(['reset', 'cancelled']), ms: z.number() }),
  z.strictObject({
    outcome: z.literal('foreign'),
    ms: z.number(),
    why: says,
    firstBytesHex: z.string().max(64),
  }),
]);

/** What came of dialling a device; `withheld`: the probe’s own ranges leave it out; `too many`: it visits enough already. */
export const deviceDialOutcomes = [
  'open',
  'refused',
  'silent',
  'unreachable',
  'reset',
  'not bound',
  'cancelled',
  'withheld',
  'too many',
] as const;
const milliseconds = z.int().min(1).max(60_000);

/** The certificate that an outpost is known by, with what the plant’s authority says of itself. */
const certified = { certificatePem: pem, authorityPem: pem, revokedPem: z.string().max(4_000_000).nullable() };

export const fromServer = z.discriminatedUnion('kind', [
  /** Whoever asks with a ticket waits until somebody has signed. */
  z.strictObject({ kind: z.literal('wait'), says }),
  z.strictObject({ kind: z.literal('refused'), says }),
  /** It is no outpost of the plant any more: it holds nothing from now on. */
  z.strictObject({ kind: z.literal('removed'), says }),
  z.strictObject({ kind: z.literal('enrolled'), ...certified }),
  z.strictObject({ kind: z.literal('welcome'), id: z.string().max(80), name: z.string().max(200) }),
  z.strictObject({ kind: z.literal('certificate'), ...certified }),
  z.strictObject({
    kind: z.literal('hold-tunnel'),
    revision,
    /** null: nothing is to be held. */
    configuration: tunnelConfiguration.nullable(),
    authorityPem: pem,
    revokedPem: z.string().max(4_000_000).nullable(),
  }),
  z.strictObject({
    kind: z.literal('hold-gateway'),
    revision,
    /** null: nothing is to be held. */
    configuration: gatewayConfiguration.nullable(),
    /** What its configuration names, by the names of the files: its key and certificate, whom it trusts, its passwords. */
    files: z.record(z.string().regex(/^[a-z0-9-]+\.(pem|txt)$/), z.string().max(16_000_000)),
  }),
  /** To a gateway: tell so many of the items that these words stand in, from the so-manieth on. */
  z.strictObject({
    kind: z.literal('tell-items'),
    askId: name,
    find: z.string().max(200),
    from: count,
    count: count.max(500),
  }),
  /** To a probe: walk this link. `subject` and `means` are packed (docs/formats.md). */
  z.strictObject({
    kind: z.literal('walk'),
    checkId: name,
    link: z.enum(['ua', 'classic']),
    subject: packed,
    means: packed,
  }),
  z.strictObject({ kind: z.literal('cancel'), checkId: name }),
  /** To a probe: connect to a device, and keep the connection until it is left. */
  z.strictObject({
    kind: z.literal('open-device'),
    visitId: name,
    address: z.string().max(64),
    port: z.int().min(1).max(65_535),
    connectMs: milliseconds,
    answerMs: milliseconds,
  }),
  z.strictObject({
    kind: z.literal('read-device'),
    visitId: name,
    askId: count,
    unit: z.int().min(0).max(mostUnit),
    table: z.enum(modbusTables),
    first: z
      .int()
      .min(0)
      .max(placesInTable - 1),
    count: z.int().min(1).max(2_000),
  }),
  z.strictObject({ kind: z.literal('leave-device'), visitId: name }),
  /** To what a probe has asked during a walk; `says`: why there is none. */
  z.strictObject({ kind: z.literal('answer'), askId: count, value: packed, says: says.nullable() }),
  z.strictObject({ kind: z.literal('alive') }),
]);
export type FromServer = z.infer<typeof fromServer>;

export const fromOutpost = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('enrol'), secret: z.string().max(200), requestPem: pem, version }),
  z.strictObject({ kind: z.literal('here'), version }),
  /** Asks for another certificate for the key of the request; somebody has to sign it. */
  z.strictObject({ kind: z.literal('renew'), requestPem: pem }),
  z.strictObject({
    kind: z.literal('tunnel'),
    /** What it holds; null: nothing. */
    revision: revision.nullable(),
    /** Why it can’t hold what it was given; null: it holds it. */
    fault: says.nullable(),
    statistics: tunnelStatistics.nullable(),
  }),
  z.strictObject({
    kind: z.literal('gateway'),
    revision: revision.nullable(),
    /** Why it can’t hold what it was given; null: it holds it. */
    fault: says.nullable(),
    statistics: gatewayStatistics.nullable(),
  }),
  z.strictObject({ kind: z.literal('items'), askId: name, told: gatewayItems }),
  /** Which ranges (CIDR) a probe may dial, as its own folder says. */
  z.strictObject({
    kind: z.literal('probe'),
    ranges: z.array(z.string().max(60)).max(1_000),
    /** Whether it reads devices for the server; probes of before don’t. */
    readsDevices: z.boolean().default(false),
  }),
  z.strictObject({ kind: z.literal('device-opened'), visitId: name, outcome: z.enum(deviceDialOutcomes) }),
  /** The device has ended the connection. */
  z.strictObject({ kind: z.literal('device-gone'), visitId: name }),
  z.strictObject({ kind: z.literal('device-read'), visitId: name, askId: count, asked }),
  /** What a probe observes during a walk, in order. */
  z.strictObject({ kind: z.literal('step'), checkId: name, step: z.string().max(40) }),
  z.strictObject({
    kind: z.literal('fact'),
    checkId: name,
    source: z.enum(['tried', 'reckoned', 'reported']),
    body: z.looseObject({ kind: z.string().max(60) }),
  }),
  z.strictObject({ kind: z.literal('bytes'), checkId: name, der: z.base64().max(200_000) }),
  z.strictObject({ kind: z.literal('ask'), checkId: name, askId: count, what: z.enum(probeAsks), about: packed }),
  /** A walk is over; `says`: why it could not be begun. */
  z.strictObject({ kind: z.literal('walked'), checkId: name, says: says.nullable() }),
  z.strictObject({ kind: z.literal('alive') }),
]);
export type FromOutpost = z.infer<typeof fromOutpost>;

/** What somebody takes along to the machine of an outpost: with it, its process asks once for a certificate. */
export const ticket = z.strictObject({
  kind: z.enum(outpostKinds),
  id: z.string().min(1).max(80),
  name: z.string().min(1).max(200),
  /** Where the server is dialled from there. */
  address: z.string().min(1).max(253),
  port: z.int().min(1).max(65_535),
  /** SHA-256 of the certificate by which the server shows itself, in hexadecimal digits. */
  fingerprint: z.string().regex(/^[0-9A-F]{64}$/),
  secret: z.string().min(20).max(200),
});
export type Ticket = z.infer<typeof ticket>;

/** The URI by which an outpost’s certificate names it. */
export const outpostUri = (id: string): string => `urn:loyal-hinge:outpost:${id}`;
