import {
  DerFault,
  contextTag,
  derTag,
  expectTag,
  objectIdentifierOf,
  partsOf,
  smallInteger,
  encodingOf,
  integerBytes,
  wholeBytesOf,
} from './der.js';
import type { DerElement } from './der.js';

export type HashName = 'SHA-1' | 'SHA-256' | 'SHA-384' | 'SHA-512';

/** How something was signed (RFC 4055, RFC 5758, RFC 8410); `unknown` for what is not computed here, such as MD5. */
export type SignatureAlgorithm =
  | { readonly kind: 'RSA PKCS#1 v1.5'; readonly hash: HashName }
  | { readonly kind: 'RSA-PSS'; readonly hash: HashName; readonly saltLength: number }
  | { readonly kind: 'ECDSA'; readonly hash: HashName }
  | { readonly kind: 'Ed25519' }
  | { readonly kind: 'unknown'; readonly oid: string };

const simple: Readonly<Record<string, SignatureAlgorithm>> = {
  '1.2.840.113549.1.1.5': { kind: 'RSA PKCS#1 v1.5', hash: 'SHA-1' },
  '1.2.840.113549.1.1.11': { kind: 'RSA PKCS#1 v1.5', hash: 'SHA-256' },
  '1.2.840.113549.1.1.12': { kind: 'RSA PKCS#1 v1.5', hash: 'SHA-384' },
  '1.2.840.113549.1.1.13': { kind: 'RSA PKCS#1 v1.5', hash: 'SHA-512' },
  '1.2.840.10045.4.1': { kind: 'ECDSA', hash: 'SHA-1' },
  '1.2.840.10045.4.3.2': { kind: 'ECDSA', hash: 'SHA-256' },
  '1.2.840.10045.4.3.3': { kind: 'ECDSA', hash: 'SHA-384' },
  '1.2.840.10045.4.3.4': { kind: 'ECDSA', hash: 'SHA-512' },
  '1.3.101.112': { kind: 'Ed25519' },
};

const hashes: Readonly<Record<string, HashName>> = {
  '1.3.14.3.2.26': 'SHA-1',
  '2.16.840.1.101.3.4.2.1': 'SHA-256',
  '2.16.840.1.101.3.4.2.2': 'SHA-384',
  '2.16.840.1.101.3.4.2.3': 'SHA-512',
};

const rsaPss = '1.2.840.113549.1.1.10';

/** Ways to sign that are known by name and not computed here, since they are outdated or hardly met. */
const named: Readonly<Record<string, string>> = {
  '1.2.840.113549.1.1.2': 'MD2',
  '1.2.840.113549.1.1.3': 'MD4',
  '1.2.840.113549.1.1.4': 'MD5',
  '1.2.840.113549.1.1.14': 'SHA-224',
  '1.2.840.10045.4.3.1': 'SHA-224',
  '1.2.840.10040.4.3': 'DSA',
};

/** What a signature was made with where that is not computed here, in words; null where it is. */
export const uncomputed = (algorithm: SignatureAlgorithm): string | null =>
  algorithm.kind === 'unknown'
    ? (named[algorithm.oid] ?? `an algorithm that is not known here (${algorithm.oid})`)
    : null;

/** Reads an AlgorithmIdentifier of a signature. */
export function signatureAlgorithmOf(element: DerElement): SignatureAlgorithm {
  const [identifier, parameters] = partsOf(expectTag(element, derTag.sequence));
  const oid = objectIdentifierOf(expectTag(identifier, derTag.objectIdentifier));
  return simple[oid] ?? (oid === rsaPss ? pssOf(parameters) : { kind: 'unknown', oid });
}

/** RSASSA-PSS-params (RFC 4055 §3.1); what is left out stands for SHA-1 and a salt of 20 bytes. */
function pssOf(parameters: DerElement | undefined): SignatureAlgorithm {
  const parts = parameters ? partsOf(expectTag(parameters, derTag.sequence)) : [];
  const explicit = (number: number): DerElement | undefined => {
    const part = parts.find(({ tag }) => tag === contextTag(number));
    return part ? partsOf(part)[0] : undefined;
  };
  const hashOf = (algorithm: DerElement | undefined): HashName | null => {
    if (!algorithm) return 'SHA-1';
    const [identifier] = partsOf(expectTag(algorithm, derTag.sequence));
    return hashes[objectIdentifierOf(expectTag(identifier, derTag.objectIdentifier))] ?? null;
  };
  const hash = hashOf(explicit(0));
  const maskHash = hashOf(partsOf(explicit(1) ?? emptySequence)[1]);
  const saltLength = explicit(2);
  if (hash === null || hash !== maskHash) return { kind: 'unknown', oid: rsaPss };
  return { kind: 'RSA-PSS', hash, saltLength: saltLength ? smallInteger(saltLength) : 20 };
}

const emptySequence: DerElement = { tag: 0x30, source: Uint8Array.of(0x30, 0), start: 0, from: 2, to: 2 };

/** A subject’s public key: its kind and size, and its SubjectPublicKeyInfo as it stands. */
export interface PublicKey {
  readonly kind: 'RSA' | 'EC' | 'Ed25519' | 'Ed448' | 'other';
  /** Modulus length for RSA, field size for EC, Ed25519 and Ed448; 0 where it can’t be told. */
  readonly bits: number;
  /** Name of the curve as WebCrypto calls it, for EC. */
  readonly curve: string | null;
  readonly info: Uint8Array;
  /** RSAPublicKey (RFC 8017 §A.1.1); null for all others. */
  readonly pkcs1: Uint8Array | null;
  /** For an RSA key that signs by RSASSA-PSS alone (RFC 4055 §1.2, §3.1), how; `any` where it says nothing more. */
  readonly pss: SignatureAlgorithm | 'any' | null;
}

const curves: Readonly<Record<string, readonly [string, number]>> = {
  '1.2.840.10045.3.1.7': ['P-256', 256],
  '1.3.132.0.34': ['P-384', 384],
  '1.3.132.0.35': ['P-521', 521],
  '1.3.36.3.3.2.8.1.1.7': ['brainpoolP256r1', 256],
  '1.3.36.3.3.2.8.1.1.11': ['brainpoolP384r1', 384],
};

export function publicKeyOf(element: DerElement): PublicKey {
  const [algorithm, key] = partsOf(expectTag(element, derTag.sequence));
  const [identifier, parameters] = partsOf(expectTag(algorithm, derTag.sequence));
  const oid = objectIdentifierOf(expectTag(identifier, derTag.objectIdentifier));
  const bytes = wholeBytesOf(expectTag(key, derTag.bitString));
  const plain = { bits: 0, curve: null, info: encodingOf(element), pkcs1: null, pss: null };
  if (oid === '1.2.840.113549.1.1.1') return { ...plain, kind: 'RSA', bits: modulusBits(bytes), pkcs1: bytes };
  if (oid === rsaPss) {
    const pss = parameters?.tag === derTag.sequence ? pssOf(parameters) : 'any';
    return { ...plain, kind: 'RSA', bits: modulusBits(bytes), pkcs1: bytes, pss };
  }
  if (oid === '1.2.840.10045.2.1') {
    // RFC 5480 §2.1.1: a curve is named; one that a key describes itself can be made to fit any signature.
    if (parameters?.tag !== derTag.objectIdentifier) throw new DerFault('its key names no curve');
    const curve = curves[objectIdentifierOf(parameters)];
    return { ...plain, kind: 'EC', bits: curve?.[1] ?? 0, curve: curve?.[0] ?? null };
  }
  // RFC 8410 §3.
  if (oid === '1.3.101.112') return { ...plain, kind: 'Ed25519', bits: 256 };
  return oid === '1.3.101.113' ? { ...plain, kind: 'Ed448', bits: 456 } : { ...plain, kind: 'other' };
}

/** SubjectPublicKeyInfo of an RSA key that is bound to nothing: what every library reads. */
export function plainKeyInfo(pkcs1: Uint8Array): Uint8Array {
  const algorithm = [0x30, 13, 6, 9, 0x2a, 0x86, 0x48, 0x86, 0xf7, 13, 1, 1, 1, 5, 0];
  const key = tagged(derTag.bitString, [0, ...pkcs1]);
  return Uint8Array.from(tagged(derTag.sequence, [...algorithm, ...key]));
}

function tagged(tag: number, content: readonly number[]): number[] {
  const { length } = content;
  const told = length < 0x80 ? [length] : length < 0x100 ? [0x81, length] : [0x82, length >> 8, length & 0xff];
  return [tag, ...told, ...content];
}

function modulusBits(key: Uint8Array): number {
  const sequence = { tag: 0x30, source: key, start: 0, from: 0, to: key.length };
  const [numbers] = partsOf(sequence);
  const [modulus] = partsOf(expectTag(numbers, derTag.sequence));
  if (!modulus) throw new DerFault('the key has no modulus');
  const bytes = integerBytes(modulus);
  const first = bytes.findIndex((byte) => byte !== 0);
  return first < 0 ? 0 : (bytes.length - first) * 8 - Math.clz32(bytes[first] ?? 0) + 24;
}
