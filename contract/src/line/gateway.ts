import * as z from 'zod';
import { relayTypes } from '@loyal-hinge/core';

/** A gateway, as its file says it (docs/formats.md). Paths of files are taken from where the file lies. */
const name = z
  .string()
  .min(1, 'A name is needed.')
  .max(64)
  .regex(/^[a-z0-9]+(-[a-z0-9]+)*$/, 'A name is made of small letters, digits and hyphens.');
const file = z.string().min(1).max(4_096);
const path = z.string().min(1, 'A path is needed.').max(1_000);
const finite = z.number().refine(Number.isFinite, 'A number is needed.');

const uaSource = z.strictObject({
  kind: z.literal('ua'),
  name,
  endpointUrl: z
    .string()
    .regex(/^opc\.tcp:\/\/\S+$/, 'A URL such as opc.tcp://host:4840 is needed.')
    .max(2_000),
  policy: z.enum(['None', 'Basic256Sha256', 'Aes128_Sha256_RsaOaep', 'Aes256_Sha256_RsaPss']),
  mode: z.enum(['None', 'Sign', 'SignAndEncrypt']),
  /** Left out: anonymous. */
  user: z.strictObject({ name: z.string().min(1).max(200), passwordFile: file }).optional(),
  /** How often changes are asked for. */
  publishingMs: z.int().min(50).max(60_000).default(250),
  /** A source that says nothing for so long is gone. */
  silenceMs: z.int().min(1_000).max(300_000).default(5_000),
});

/** Which items are shown, and where. */
const placeRule = z.strictObject({
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
  policies: z
    .array(z.enum(['None', 'Basic256Sha256', 'Aes128_Sha256_RsaOaep', 'Aes256_Sha256_RsaPss']))
    .min(1)
    .default(['Basic256Sha256', 'Aes256_Sha256_RsaPss']),
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

const relayEnd = z.strictObject({ source: name, path });
const pair = z.tuple([finite, finite]);
const relay = z.strictObject({
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
  sources: z.array(uaSource).min(1, 'Name at least one source.').max(100),
  places: z.array(placeRule).max(10_000).default([]),
  faces: z.array(uaFace).max(10).default([]),
  relays: z.array(relay).max(10_000).default([]),
});
export type GatewayConfiguration = z.infer<typeof gatewayConfiguration>;

/** What a gateway tells of itself. */
export interface GatewayStatistics {
  readonly name: string;
  readonly sources: readonly {
    readonly name: string;
    readonly state: 'dialling' | 'there' | 'stopped';
    /** Why it is not there; null: it is, or it never was tried. */
    readonly fault: string | null;
    readonly items: number;
    /** How often it came back. */
    readonly returns: number;
    readonly changes: number;
  }[];
  /** Items that are shown, and changes that were. */
  readonly items: number;
  readonly shown: number;
  readonly withheld: number;
  readonly writes: { readonly done: number; readonly refused: number };
  readonly relays: readonly { readonly id: string; readonly written: number; readonly says: string | null }[];
}
