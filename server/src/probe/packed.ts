import { readCertificate } from '@loyal-hinge/core';
import type { Certificate, LinkInPlant } from '@loyal-hinge/core';
import type { CheckMeans, ServerLists } from './means.js';

/**
 * Bytes, maps and certificates in JSON, for the way from the server to a probe and back: `{"$bytes": base64}`, `{"$map": [[key,
 * value], …]}`, `{"$certificate": base64}`.
 */
export function packed(value: unknown): unknown {
  if (value instanceof Uint8Array) return { $bytes: Buffer.from(value).toString('base64') };
  if (value instanceof Map) return { $map: [...value].map(([key, inner]) => [packed(key), packed(inner)]) };
  if (Array.isArray(value)) return value.map(packed);
  if (typeof value !== 'object' || value === null) return typeof value === 'bigint' ? value.toString() : value;
  if (isCertificate(value)) return { $certificate: Buffer.from(value.der).toString('base64') };
  return Object.fromEntries(
    Object.entries(value).flatMap(([key, inner]) =>
      inner === undefined || typeof inner === 'function' ? [] : [[key, packed(inner)]],
    ),
  );
}

/** @throws Error where what is said to be a certificate is none */
export function unpacked(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(unpacked);
  if (typeof value !== 'object' || value === null) return value;
  const parts = value as Readonly<Record<string, unknown>>;
  if (typeof parts['$bytes'] === 'string') return new Uint8Array(Buffer.from(parts['$bytes'], 'base64'));
  if (typeof parts['$certificate'] === 'string') {
    const read = readCertificate(new Uint8Array(Buffer.from(parts['$certificate'], 'base64')));
    if (!read.ok) throw new Error(read.says);
    return read.certificate;
  }
  if (Array.isArray(parts['$map']))
    return new Map(
      parts['$map'].map((pair: unknown) => {
        const [key, inner] = Array.isArray(pair) ? (pair as readonly unknown[]) : [];
        return [unpacked(key), unpacked(inner)] as const;
      }),
    );
  return Object.fromEntries(Object.entries(parts).map(([key, inner]) => [key, unpacked(inner)]));
}

const isCertificate = (value: object): value is Certificate =>
  'der' in value && value.der instanceof Uint8Array && 'thumbprint' in value && 'publicKey' in value;

/** What of the means can be asked for during a walk only, and whether there is somebody to ask. */
export interface AskedMeans {
  readonly seenByOthers: boolean;
  readonly readServerLists: boolean;
  readonly rejectedSince: readonly (readonly [base64: string, since: string])[];
}
export type PackedMeans = Omit<
  CheckMeans,
  'signIns' | 'atDevice' | 'seenByOthers' | 'readServerLists' | 'passage' | 'redundant' | 'knownServerLists'
> & {
  readonly knownServerLists: Omit<ServerLists, 'rejectedSince'> | null;
  readonly asked: AskedMeans;
};

/** Everything of a walk’s means that stands by itself. */
export function packedMeans(means: CheckMeans): unknown {
  const { signIns: _s, seenByOthers, readServerLists, passage: _p, redundant: _r, knownServerLists, ...plain } = means;
  const asked: AskedMeans = {
    seenByOthers: seenByOthers !== null,
    readServerLists: readServerLists !== null,
    rejectedSince: sinceOf(knownServerLists),
  };
  const lists = knownServerLists && listsOf(knownServerLists);
  return packed({ ...plain, knownServerLists: lists, asked });
}

/** Lists of a server in JSON, with since when each certificate lies set aside. */
export const packedLists = (lists: ServerLists): unknown =>
  packed({ lists: listsOf(lists), rejectedSince: sinceOf(lists) });

export function unpackedLists(value: unknown): ServerLists {
  const { lists, rejectedSince } = unpacked(value) as {
    readonly lists: Omit<ServerLists, 'rejectedSince'>;
    readonly rejectedSince: AskedMeans['rejectedSince'];
  };
  return withSince(lists, rejectedSince);
}

export function withSince(
  lists: Omit<ServerLists, 'rejectedSince'>,
  rejectedSince: AskedMeans['rejectedSince'],
): ServerLists {
  const since = new Map(rejectedSince);
  return { ...lists, rejectedSince: (der) => since.get(Buffer.from(der).toString('base64')) ?? null };
}

const listsOf = ({ trusted, issuers, crls, rejected, by }: ServerLists): Omit<ServerLists, 'rejectedSince'> => ({
  trusted,
  issuers,
  crls,
  rejected,
  by,
});
const sinceOf = (lists: ServerLists | null): AskedMeans['rejectedSince'] =>
  (lists?.rejected ?? []).flatMap((der) => {
    const since = lists?.rejectedSince(der) ?? null;
    return since === null ? [] : [[Buffer.from(der).toString('base64'), since] as const];
  });

export const unpackedMeans = (value: unknown): PackedMeans => unpacked(value) as PackedMeans;
export const unpackedSubject = (value: unknown): LinkInPlant => unpacked(value) as LinkInPlant;
