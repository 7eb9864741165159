import { sha1 } from '@noble/hashes/legacy';
import { sha256 } from '@noble/hashes/sha2';
import type { Instant } from '../time.js';
import { publicKeyOf, signatureAlgorithmOf } from './x509/algorithms.js';
import type { PublicKey, SignatureAlgorithm } from './x509/algorithms.js';
import {
  DerFault,
  contextTag,
  derTag,
  encodingOf,
  expectTag,
  hexOf,
  integerBytes,
  partsOf,
  sameBytes,
  smallInteger,
  timeOf,
  wholeBytesOf,
  wholeElement,
} from './x509/der.js';
import type { DerElement } from './x509/der.js';
import { certificateExtensionsOf } from './x509/extensions.js';
import type { CertificateExtensions } from './x509/extensions.js';
import { addressText } from './x509/general-name.js';
import { DistinguishedName } from './x509/name.js';
import { valueIn } from './x509/name-text.js';
import type { Signed } from './x509/signatures.js';

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

/** A certificate that was read. Names and thumbprints are worked out when they are first asked for. */
export class Certificate implements Signed {
  private summaryRead: CertificateSummary | null = null;
  private thumbprintRead: Thumbprint | null = null;
  /** Issuer and subject are the same name. Whether it is signed with its own key is another question. */
  readonly isSelfIssued: boolean;

  constructor(
    readonly der: Uint8Array,
    readonly version: number,
    readonly serialNumber: string,
    readonly signed: Uint8Array,
    readonly signatureAlgorithm: SignatureAlgorithm,
    readonly signature: Uint8Array,
    readonly issuer: DistinguishedName,
    readonly subject: DistinguishedName,
    /** Milliseconds since 1970. */
    readonly notBefore: number,
    readonly notAfter: number,
    readonly publicKey: PublicKey,
    readonly extensions: CertificateExtensions,
  ) {
    this.isSelfIssued = issuer.equals(subject);
  }

  get summary(): CertificateSummary {
    return (this.summaryRead ??= summarise(this));
  }

  get thumbprint(): Thumbprint {
    return (this.thumbprintRead ??= hexOf(sha1(this.der)));
  }

  get isAuthority(): boolean {
    return this.extensions.basicConstraints?.isAuthority ?? false;
  }

  is(other: Certificate): boolean {
    return this === other || sameBytes(this.der, other.der);
  }
}

export type CertificateResult =
  { readonly ok: true; readonly certificate: Certificate } | { readonly ok: false; readonly says: string };

/**
 * Reads one DER certificate (RFC 5280 §4.1). Bytes behind the certificate, a cut-off certificate, looseness that DER
 * forbids and anything that is not X.509 give a sentence instead of a certificate; nothing is thrown.
 */
export function readCertificate(der: Uint8Array): CertificateResult {
  if (der.length === 0) return unreadable('The certificate is empty.');
  if (der[0] !== derTag.sequence) return unreadable('This is not DER: a certificate begins with a SEQUENCE (30).');
  try {
    return { ok: true, certificate: certificateOf(Uint8Array.from(der)) };
  } catch (error) {
    if (!(error instanceof DerFault)) throw error;
    return unreadable(`This is not an X.509 certificate in DER: ${error.message}.`);
  }
}

const unreadable = (says: string): CertificateResult => ({ ok: false, says });

function certificateOf(der: Uint8Array): Certificate {
  const parts = partsOf(wholeElement(der, derTag.sequence));
  if (parts.length !== 3) throw new DerFault(`it has ${parts.length} parts and not three`);
  const [signed, algorithm, signature] = parts as [DerElement, DerElement, DerElement];
  const fields = [...partsOf(expectTag(signed, derTag.sequence))];
  const version = fields[0]?.tag === contextTag(0) ? smallInteger(inside(fields.shift())) + 1 : 1;
  const [serial, innerAlgorithm, issuer, validity, subject, publicKey, ...rest] = fields;
  if (!sameBytes(encodingOf(algorithm), encodingOf(expectTag(innerAlgorithm, derTag.sequence))))
    throw new DerFault('it names one signature algorithm inside and another outside');
  const [notBefore, notAfter] = partsOf(expectTag(validity, derTag.sequence));
  const extensions = rest.find(({ tag }) => tag === contextTag(3));
  if (extensions && version !== 3) throw new DerFault('it has extensions and is not of version 3');
  return new Certificate(
    der,
    version,
    hexOf(integerBytes(expectTag(serial, derTag.integer))),
    encodingOf(signed),
    signatureAlgorithmOf(algorithm),
    wholeBytesOf(signature),
    DistinguishedName.ofIssuer(expectTag(issuer, derTag.sequence)),
    new DistinguishedName(expectTag(subject, derTag.sequence)).check(),
    timeOf(some(notBefore)),
    timeOf(some(notAfter)),
    publicKeyOf(expectTag(publicKey, derTag.sequence)),
    certificateExtensionsOf(extensions),
  );
}

function some(element: DerElement | undefined): DerElement {
  if (!element) throw new DerFault('a part is missing');
  return element;
}

const inside = (element: DerElement | undefined): DerElement => some(partsOf(some(element))[0]);

function summarise(certificate: Certificate): CertificateSummary {
  const { extensions, publicKey, signatureAlgorithm } = certificate;
  const names = extensions.alternativeNames ?? [];
  const namesOf = (kind: 'uri' | 'dns'): string[] => names.flatMap((name) => (name.kind === kind ? [name.value] : []));
  return {
    thumbprint: certificate.thumbprint,
    sha256: hexOf(sha256(certificate.der)),
    subject: certificate.subject.text,
    issuer: certificate.issuer.text,
    serialNumber: certificate.serialNumber,
    notBefore: new Date(certificate.notBefore).toISOString(),
    notAfter: new Date(certificate.notAfter).toISOString(),
    applicationUris: namesOf('uri'),
    dnsNames: namesOf('dns'),
    ipAddresses: names.flatMap((name) => (name.kind === 'ip' ? [addressText(name.bytes)] : [])),
    keyType: publicKey.kind === 'RSA' || publicKey.kind === 'EC' ? publicKey.kind : 'other',
    keyBits: publicKey.bits,
    signatureHash: 'hash' in signatureAlgorithm ? signatureAlgorithm.hash : 'unknown',
    keyUsages: extensions.keyUsages ?? [],
    extendedKeyUsages: (extensions.extendedKeyUsages ?? []).map((usage) => extendedUsageNames[usage] ?? usage),
    isAuthority: certificate.isAuthority,
    pathLength: extensions.basicConstraints?.pathLength ?? null,
    selfIssued: certificate.isSelfIssued,
    subjectKeyId: extensions.subjectKeyId,
    authorityKeyId: extensions.authorityKeyId,
  };
}

const extendedUsageNames: Readonly<Record<string, string>> = {
  '1.3.6.1.5.5.7.3.1': 'serverAuth',
  '1.3.6.1.5.5.7.3.2': 'clientAuth',
  '1.3.6.1.5.5.7.3.3': 'codeSigning',
  '1.3.6.1.5.5.7.3.4': 'emailProtection',
  '1.3.6.1.5.5.7.3.8': 'timeStamping',
  '1.3.6.1.5.5.7.3.9': 'OCSPSigning',
  '2.5.29.37.0': 'anyExtendedKeyUsage',
};

/** The common name of a distinguished name, or the whole name where it has none. */
export const commonName = (distinguishedName: string): string => valueIn(distinguishedName, 'CN') || distinguishedName;
/** The organization in a distinguished name; empty where it has none. */
export const organizationIn = (distinguishedName: string): string => valueIn(distinguishedName, 'O') ?? '';
