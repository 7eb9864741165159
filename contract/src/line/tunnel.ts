import * as z from 'zod';
import { readFileText } from './read-file.js';
import type { ReadFile } from './read-file.js';

/** One end of a tunnel, as its file says it (docs/formats.md). Paths of files are taken from where the file lies. */
const host = z.string().min(1, 'Give a host name or an address.').max(253);
const port = z.int().min(0, 'A port is at least 0.').max(65_535, 'A port is at most 65535.');
const name = z
  .string()
  .min(1, 'A name is needed.')
  .max(64)
  .regex(/^[a-z0-9]+(-[a-z0-9]+)*$/, 'A name is made of small letters, digits and hyphens.');
/** SHA-256 of a certificate, in hexadecimal digits. */
const fingerprint = z
  .string()
  .regex(/^[0-9A-F]{64}$/, 'A fingerprint is the SHA-256 of a certificate, in 64 hexadecimal digits.');
/** Bytes a second; null: as many as there are. */
const rate = z.int().min(1_000, 'At least 1000 bytes a second.').max(10_000_000_000).nullable();

export const tunnelLimits = z.strictObject({
  /** Streams at once, both ways together. */
  streams: z.int().min(1).max(10_000).default(512),
  /** Of one stream each way. */
  streamBytesPerSecond: rate.default(null),
  /** Of all streams together each way. */
  bytesPerSecond: rate.default(null),
  /** A stream over which nothing goes for so long is ended; null: it never is. */
  idleMs: z.int().min(1_000).max(86_400_000).nullable().default(null),
  connectMs: z.int().min(100).max(60_000).default(5_000),
  /** A line that doesn’t answer for so long is given up. */
  silenceMs: z.int().min(1_000).max(300_000).default(15_000),
  /** How long streams may go on once the end was told to stop. */
  drainMs: z.int().min(0).max(300_000).default(10_000),
});
export type TunnelLimits = z.infer<typeof tunnelLimits>;

export const tunnelConfiguration = z.strictObject({
  name,
  /** One end listens, the other dials: only that direction has to be open. */
  meets: z.discriminatedUnion('by', [
    z.strictObject({ by: z.literal('listening'), address: host, port }),
    z.strictObject({ by: z.literal('dialling'), address: host, port }),
  ]),
  certificateFile: z.string().min(1),
  keyFile: z.string().min(1),
  /** Certificates of the authority that signs both ends’. */
  authorityFile: z.string().min(1),
  /** What it has revoked; left out: nothing is looked up. */
  revokedFile: z.string().min(1).optional(),
  /** Who may be at the other end. */
  peers: z.array(z.strictObject({ name, fingerprint })).min(1, 'Name at least one peer.').max(64),
  /** Where this end takes connections, and to which target of the other end each leads. */
  entrances: z
    .array(z.strictObject({ name, address: host, port, target: name }))
    .max(1024)
    .default([]),
  /** Where this end connects to for the other; nowhere else. */
  targets: z
    .array(z.strictObject({ name, address: host, port }))
    .max(1024)
    .default([]),
  /** Where it tells its statistics as JSON, on this machine alone; left out: nowhere. */
  statistics: z.strictObject({ port }).optional(),
  limits: tunnelLimits.prefault({}),
});
export type TunnelConfiguration = z.infer<typeof tunnelConfiguration>;

/** Reads a configuration; says at which place what is wrong with it. */
export function readTunnelConfiguration(text: string): ReadFile<TunnelConfiguration> {
  const read = readFileText(tunnelConfiguration, text);
  if (!read.ok) return read;
  const names = [...read.value.entrances, ...read.value.targets].map((each) => each.name);
  const twice = names.find((each, index) => names.indexOf(each) !== index);
  return twice === undefined ? read : { ok: false, says: `“${twice}” is named twice.` };
}

/** Why a stream or a line was refused. */
export const refusals = [
  'unknown target',
  'target does not answer',
  'too many streams',
  'no line',
  'certificate not valid',
  'peer not named',
  'no certificate',
  'too many connections',
] as const;
export type Refusal = (typeof refusals)[number];

const count = z.int().min(0).max(Number.MAX_SAFE_INTEGER);

/** What an end of a tunnel tells of itself. */
export const tunnelStatistics = z.object({
  name: z.string().max(64),
  state: z.enum(['waiting', 'joined', 'stopping']),
  /** Who is at the other end; null: nobody. */
  peer: z.string().max(64).nullable(),
  joinedAt: z.string().max(40).nullable(),
  /** Of the last sign of life; null: there was none yet. */
  roundTripMs: z.number().min(0).max(1e9).nullable(),
  streams: z.object({ open: count, total: count }),
  /** Of what streams carried. */
  bytes: z.object({ sent: count, received: count }),
  /** How often the line was made anew. */
  joins: count,
  refused: z.record(z.enum(refusals), count),
});
export type TunnelStatistics = z.infer<typeof tunnelStatistics>;

/** All that an end needs beside its key, to be taken to its machine as one file. */
export const tunnelBundle = z.strictObject({
  certificatePem: z.string().max(100_000),
  authorityPem: z.string().max(100_000),
  revokedPem: z.string().max(4_000_000).nullable(),
  configuration: tunnelConfiguration,
});
export type TunnelBundle = z.infer<typeof tunnelBundle>;
