import * as z from 'zod';
import { callLevels, relayTypes } from '@loyal-hinge/core';

/** A gateway, as its file says it (docs/formats.md). Paths of files are taken from where the file lies. */
const name = z
  .string()
  .min(1, 'A name is needed.')
  .max(64)
  .regex(/^[a-z0-9]+(-[a-z0-9]+)*$/, 'A name is made of small letters, digits and hyphens.');
const file = z.string().min(1).max(4_096);
const path = z.string().min(1, 'A path is needed.').max(1_000);
const finite = z.number().refine(Number.isFinite, 'A number is needed.');

/** Security policies by which gateways read and are read. */
export const gatewayPolicies = ['None', 'Basic256Sha256', 'Aes128_Sha256_RsaOaep', 'Aes256_Sha256_RsaPss'] as const;

const uaSource = z.strictObject({
  kind: z.literal('ua'),
  name,
  endpointUrl: z
    .string()
    .regex(/^opc\.tcp:\/\/\S+$/, 'A URL such as opc.tcp://host:4840 is needed.')
    .max(2_000),
  policy: z.enum(gatewayPolicies),
  mode: z.enum(['None', 'Sign', 'SignAndEncrypt']),
  /** Left out: anonymous. */
  user: z.strictObject({ name: z.string().min(1).max(200), passwordFile: file }).optional(),
  /** How often changes are asked for. */
  publishingMs: z.int().min(50).max(60_000).default(250),
  /** A source that says nothing for so long is gone. */
  silenceMs: z.int().min(1_000).max(300_000).default(5_000),
  /** Paths of nodes whose events are passed on; each has its place like an item. */
  events: z.array(path).max(100).default([]),
});

const rpcPort = z.int().min(0).max(65_535);
const classicSource = z.strictObject({
  kind: z.literal('classic'),
  name,
  /** The server’s machine, and where its mapper listens. */
  host: z.string().min(1).max(253),
  mapperPort: rpcPort.default(135),
  /** The server’s class, by its program’s name or its CLSID. */
  program: z.string().min(1).max(200),
  /** Left out: as nobody. */
  user: z.strictObject({ name: z.string().min(1).max(200), passwordFile: file }).optional(),
  level: z.enum(callLevels).default('integrity'),
  /** Where the server calls back; left out: at the address that calls come from, at any free port. */
  back: z.strictObject({ hosts: z.array(z.string().max(253)).min(1).max(16), port: rpcPort }).optional(),
  publishingMs: z.int().min(50).max(60_000).default(1_000),
  silenceMs: z.int().min(1_000).max(300_000).default(5_000),
});

/** What an end of a tunnel on the same machine tells of itself (`--statistics PORT`), as items. */
const tunnelSource = z.strictObject({
  kind: z.literal('tunnel'),
  name,
  port: z.int().min(1).max(65_535),
  publishingMs: z.int().min(250).max(60_000).default(1_000),
});

/** Which items are shown, and where. */
export const gatewayPlace = z.strictObject({
  source: name,
  items: path,
  domain: z
    .string()
    .min(1)
    .max(100)
    .refine((text) => !text.includes('/'), 'A domain has no “/” in its name.'),
  withoutFirst: z.int().min(0).max(50).default(0),
  isWritable: z.boolean().default(false),
});

const uaFace = z.strictObject({
  kind: z.literal('ua'),
  address: z.string().min(1).max(253),
  port: z.int().min(0).max(65_535),
  policies: z.array(z.enum(gatewayPolicies)).min(1).default(['Basic256Sha256', 'Aes256_Sha256_RsaPss']),
  modes: z
    .array(z.enum(['None', 'Sign', 'SignAndEncrypt']))
    .min(1)
    .default(['Sign', 'SignAndEncrypt']),
  allowsAnonymous: z.boolean().default(false),
  /** The password of each is made into its line by “gateway.mjs password”. */
  users: z
    .array(
      z.strictObject({
        name: z.string().min(1).max(200),
        password: z.string().regex(/^scrypt:[A-Za-z0-9_-]+:[A-Za-z0-9_-]+$/, 'Make it with “gateway.mjs password”.'),
        mayWrite: z.boolean().default(false),
      }),
    )
    .max(1_000)
    .default([]),
});

const classicFace = z.strictObject({
  kind: z.literal('classic'),
  address: z.string().min(1).max(253),
  /** Where its mapper listens; below 1024 a process needs the right to. */
  mapperPort: rpcPort.default(135),
  /** Where its objects are called; 0: any port that is free. */
  objectPort: rpcPort.default(0),
  clsid: z.guid(),
  program: z.string().min(1).max(200),
  /** The least level at which calls are taken. */
  level: z.enum(callLevels).default('integrity'),
  /** NTLM compares what is made of the password itself: it lies in a file that nobody else reads. */
  users: z
    .array(
      z.strictObject({ name: z.string().min(1).max(200), passwordFile: file, mayWrite: z.boolean().default(false) }),
    )
    .max(1_000)
    .default([]),
});

const relayEnd = z.strictObject({ source: name, path });
const pair = z.tuple([finite, finite]);
export const gatewayRelay = z.strictObject({
  id: name,
  from: relayEnd,
  to: relayEnd,
  scale: z
    .discriminatedUnion('kind', [
      z.strictObject({ kind: z.literal('linear'), factor: finite, offset: finite }),
      z.strictObject({ kind: z.literal('ranges'), from: pair, to: pair, clamps: z.boolean() }),
    ])
    .nullable()
    .default(null),
  deadBand: z
    .strictObject({ kind: z.enum(['absolute', 'percent']), by: finite.min(0, 'A dead band is not negative.') })
    .nullable()
    .default(null),
  as: z.enum(relayTypes).nullable().default(null),
  onBad: z
    .discriminatedUnion('kind', [
      z.strictObject({ kind: z.literal('hold') }),
      z.strictObject({ kind: z.literal('value'), value: z.union([finite, z.boolean(), z.string().max(1_000)]) }),
    ])
    .default({ kind: 'hold' }),
});

export const gatewayConfiguration = z.strictObject({
  name,
  certificateFile: file,
  keyFile: file,
  /** Certificates that are trusted, and CRLs: of servers, of clients, or of the authority that signs them. */
  trustedFiles: z.array(file).max(1_000),
  crlFiles: z.array(file).max(1_000).default([]),
  /** Certificates of authorities that complete chains, and are not trusted for that. */
  issuerFiles: z.array(file).max(1_000).default([]),
  sources: z.array(z.discriminatedUnion('kind', [uaSource, classicSource, tunnelSource])).max(100),
  places: z.array(gatewayPlace).max(10_000).default([]),
  faces: z
    .array(z.discriminatedUnion('kind', [uaFace, classicFace]))
    .max(10)
    .default([]),
  relays: z.array(gatewayRelay).max(10_000).default([]),
});
export type GatewayConfiguration = z.infer<typeof gatewayConfiguration>;

const count = z.int().min(0).max(Number.MAX_SAFE_INTEGER);
const says = z.string().max(2_000);

/** What a gateway tells of itself. */
export const gatewayStatistics = z.object({
  name: z.string().max(64),
  sources: z
    .array(
      z.object({
        name: z.string().max(64),
        state: z.enum(['dialling', 'there', 'stopped']),
        /** Why it is not there; null: it is, or it never was tried. */
        fault: says.nullable(),
        items: count,
        /** How often it came back. */
        returns: count,
        changes: count,
        /** Events that were passed on; gateways of before have none. */
        events: count.default(0),
      }),
    )
    .max(100),
  /** Items that are shown, and changes that were. */
  items: count,
  shown: count,
  withheld: count,
  writes: z.object({ done: count, refused: count }),
  relays: z.array(z.object({ id: z.string().max(64), written: count, says: says.nullable() })).max(10_000),
});
export type GatewayStatistics = z.infer<typeof gatewayStatistics>;

const said = z.object({
  /** What JSON has no form for is put into words. */
  value: z.union([z.number(), z.boolean(), z.string().max(600)]).nullable(),
  /** A built-in type, such as `Double`; null: none was told. */
  type: z.string().max(40).nullable(),
  /** Status code (Part 4 §7.39). */
  status: z.int().min(0).max(0xffff_ffff),
  /** In milliseconds since 1970; null: the source does not say. */
  sourceTime: z.number().nullable(),
});

/** Items of a gateway as it has them at a moment; a part of them. */
export const gatewayItems = z.object({
  /** How many there are in all. */
  total: count,
  items: z
    .array(
      z.object({
        source: z.string().max(64),
        path: z.string().max(4_000),
        /** Where it is shown; null: it is for relays alone. */
        place: z.string().max(4_200).nullable(),
        isWritable: z.boolean(),
        /** null: the source is gone, or has said nothing yet. */
        atSource: said.nullable(),
        shown: said,
      }),
    )
    .max(500),
});
export type GatewayItems = z.infer<typeof gatewayItems>;
