import 'reflect-metadata';
import {
  AuthorityKeyIdentifierExtension,
  BasicConstraintsExtension,
  ExtendedKeyUsageExtension,
  KeyUsageFlags,
  KeyUsagesExtension,
  SubjectAlternativeNameExtension,
  SubjectKeyIdentifierExtension,
  X509Certificate,
} from '@peculiar/x509';
import type { Instant } from '../time.js';
import { derElementLength } from './pem.js';

/** SHA-1 of the DER encoding in capital hexadecimal: what the standard calls the thumbprint (Part 4 §7.3). */
export type Thumbprint = string;

/** Everything that matters about a certificate (RFC 5280, Part 6 §6.2), without its bytes. */
export interface CertificateSummary {
  readonly thumbprint: Thumbprint;
  readonly sha256: string;
  readonly subject: string;
  readonly issuer: string;
  readonly serialNumber: string;
  readonly notBefore: Instant;
  readonly notAfter: Instant;
  readonly applicationUris: readonly string[];
  readonly dnsNames: readonly string[];
  readonly ipAddresses: readonly string[];
  readonly keyType: 'RSA' | 'EC' | 'other';
  /** Modulus length for RSA, field size for EC; 0 where it can’t be told. */
  readonly keyBits: number;
  readonly signatureHash: string;
  readonly keyUsages: readonly string[];
  readonly extendedKeyUsages: readonly string[];
  readonly isAuthority: boolean;
  readonly pathLength: number | null;
  readonly selfIssued: boolean;
  readonly subjectKeyId: string | null;
  readonly authorityKeyId: string | null;
}

/** A certificate that was read: its bytes, its parsed form and its summary. */
export interface Certificate {
  readonly der: Uint8Array;
  readonly parsed: X509Certificate;
  readonly summary: CertificateSummary;
}

export type CertificateResult =
  { readonly ok: true; readonly certificate: Certificate } | { readonly ok: false; readonly says: string };

/**
 * Reads one DER certificate. Bytes behind the certificate, a cut-off certificate and anything that is not X.509 v3
 * give a sentence instead of a certificate; nothing is thrown.
 */
export async function readCertificate(der: Uint8Array): Promise<CertificateResult> {
  if (der.length === 0) return unreadable('The certificate is empty.');
  if (der[0] !== 0x30) return unreadable('This is not DER: a certificate begins with a SEQUENCE (30).');
  const length = derElementLength(der);
  if (length === null) return unreadable('The certificate is cut off: it says that it is longer than what is there.');
  if (length !== der.length) return unreadable(`${der.length - length} bytes stand behind the certificate’s end.`);
  try {
    const bytes = Uint8Array.from(der);
    const parsed = new X509Certificate(bytes);
    return { ok: true, certificate: { der: bytes, parsed, summary: await summarise(bytes, parsed) } };
  } catch (error) {
    return unreadable(`This is not an X.509 certificate (${error instanceof Error ? error.message : 'unreadable'}).`);
  }
}

const unreadable = (says: string): CertificateResult => ({ ok: false, says });

async function summarise(der: Uint8Array, parsed: X509Certificate): Promise<CertificateSummary> {
  const names = parsed.getExtension(SubjectAlternativeNameExtension)?.names.items ?? [];
  const namesOf = (type: string): string[] => names.filter((name) => name.type === type).map((name) => name.value);
  const constraints = parsed.getExtension(BasicConstraintsExtension);
  return {
    thumbprint: await digest('SHA-1', der),
    sha256: await digest('SHA-256', der),
    subject: parsed.subject,
    issuer: parsed.issuer,
    serialNumber: parsed.serialNumber.toUpperCase(),
    notBefore: parsed.notBefore.toISOString(),
    notAfter: parsed.notAfter.toISOString(),
    applicationUris: namesOf('url'),
    dnsNames: namesOf('dns'),
    ipAddresses: namesOf('ip'),
    ...keyOf(parsed),
    signatureHash: hashOf(parsed),
    keyUsages: keyUsageNames(parsed.getExtension(KeyUsagesExtension)?.usages ?? 0),
    extendedKeyUsages: (parsed.getExtension(ExtendedKeyUsageExtension)?.usages ?? []).map((usage) =>
      extendedUsageName(usage),
    ),
    isAuthority: constraints?.ca ?? false,
    pathLength: constraints?.pathLength ?? null,
    selfIssued: sameBytes(parsed.subjectName.toArrayBuffer(), parsed.issuerName.toArrayBuffer()),
    subjectKeyId: parsed.getExtension(SubjectKeyIdentifierExtension)?.keyId.toUpperCase() ?? null,
    authorityKeyId: parsed.getExtension(AuthorityKeyIdentifierExtension)?.keyId?.toUpperCase() ?? null,
  };
}

function keyOf(parsed: X509Certificate): { keyType: CertificateSummary['keyType']; keyBits: number } {
  const algorithm = parsed.publicKey.algorithm as { name: string; modulusLength?: number; namedCurve?: string };
  if (algorithm.name.startsWith('RSA')) return { keyType: 'RSA', keyBits: algorithm.modulusLength ?? 0 };
  if (algorithm.name.startsWith('EC'))
    return { keyType: 'EC', keyBits: Number(/\d+/.exec(algorithm.namedCurve ?? '')?.[0] ?? 0) };
  return { keyType: 'other', keyBits: 0 };
}

function hashOf(parsed: X509Certificate): string {
  const algorithm = parsed.signatureAlgorithm as { hash?: { name: string } };
  return algorithm.hash?.name ?? 'unknown';
}

const usageFlags: readonly (readonly [number, string])[] = [
  [KeyUsageFlags.digitalSignature, 'digitalSignature'],
  [KeyUsageFlags.nonRepudiation, 'nonRepudiation'],
  [KeyUsageFlags.keyEncipherment, 'keyEncipherment'],
  [KeyUsageFlags.dataEncipherment, 'dataEncipherment'],
  [KeyUsageFlags.keyAgreement, 'keyAgreement'],
  [KeyUsageFlags.keyCertSign, 'keyCertSign'],
  [KeyUsageFlags.cRLSign, 'cRLSign'],
];

function keyUsageNames(flags: number): readonly string[] {
  return usageFlags.filter(([flag]) => (flags & flag) !== 0).map(([, name]) => name);
}

const extendedUsages: Readonly<Record<string, string>> = {
  '1.3.6.1.5.5.7.3.1': 'serverAuth',
  '1.3.6.1.5.5.7.3.2': 'clientAuth',
};

const extendedUsageName = (usage: unknown): string => extendedUsages[String(usage)] ?? String(usage);

async function digest(algorithm: 'SHA-1' | 'SHA-256', bytes: Uint8Array): Promise<string> {
  const hash = await crypto.subtle.digest(algorithm, Uint8Array.from(bytes));
  return Array.from(new Uint8Array(hash), (byte) => byte.toString(16).padStart(2, '0').toUpperCase()).join('');
}

/** Compares two encodings byte by byte. */
export function sameBytes(left: ArrayBuffer | Uint8Array, right: ArrayBuffer | Uint8Array): boolean {
  const one = new Uint8Array(left);
  const other = new Uint8Array(right);
  return one.length === other.length && one.every((byte, index) => byte === other[index]);
}

/** The common name of a distinguished name, or the whole name where it has none. */
export function commonName(distinguishedName: string): string {
  return /(?:^|,\s*)CN=((?:\\.|[^,\\])+)/.exec(distinguishedName)?.[1]?.replaceAll('\\', '') ?? distinguishedName;
}
