import * as z from 'zod';
import { tunnelConfiguration, tunnelStatistics } from './tunnel.js';

/**
 * What goes over the one connection between an outpost and the server: one JSON object a line, both ways (docs/formats.md).
 * An outpost is a process of this product on another machine.
 */
export const outpostProtocol = 'loyal-hinge-outpost-1';

/** No line is longer, whoever sends it. */
export const longestLine = 8 * 1024 * 1024;
/** A sign of life is sent this often, and who sends none for thrice as long is taken for gone. */
export const aliveMs = 10_000;

export const outpostKinds = ['tunnel-end'] as const;
export type OutpostKind = (typeof outpostKinds)[number];

const pem = z.string().max(100_000);
const says = z.string().max(2_000);
const version = z.string().max(40);
/** Names what an outpost shall hold: another one, something else. */
const revision = z.string().max(64);

/** The certificate that an outpost is known by, with what the plant’s authority says of itself. */
const certified = { certificatePem: pem, authorityPem: pem, revokedPem: z.string().max(4_000_000).nullable() };

export const fromServer = z.discriminatedUnion('kind', [
  /** Whoever asks with a ticket waits until somebody has signed. */
  z.strictObject({ kind: z.literal('wait'), says }),
  z.strictObject({ kind: z.literal('refused'), says }),
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
