import 'reflect-metadata';
import {
  AuthorityKeyIdentifierExtension,
  BasicConstraintsExtension,
  ExtendedKeyUsageExtension,
  KeyUsageFlags,
  KeyUsagesExtension,
  PublicKey,
  SubjectAlternativeNameExtension,
  SubjectKeyIdentifierExtension,
  X509Certificate,
  X509CertificateGenerator,
} from '@peculiar/x509';
import type { Extension, JsonName, Name } from '@peculiar/x509';
import { isAddressLiteral } from '../../links/endpoint-url.js';
import { sameBytes } from '../x509/der.js';
import { signatureOf } from './keys.js';
import type { KeyKind } from './keys.js';

/** A name for a certificate; parts that are empty are left out. */
export interface SubjectName {
  readonly commonName: string;
  readonly organization: string;
}

export const jsonNameOf = ({ commonName, organization }: SubjectName): JsonName => [
  { CN: [commonName] },
  ...(organization === '' ? [] : [{ O: [organization] }]),
];

/** Who signs: an authority with its certificate, or nobody else (self-signed). */
export interface Signer {
  readonly kind: KeyKind;
  readonly privateKey: CryptoKey;
  /** DER of the authority’s certificate; null: the certificate signs itself. */
  readonly certificate: Uint8Array | null;
}

interface Wanted {
  readonly subject: SubjectName;
  /** SubjectPublicKeyInfo in DER. */
  readonly publicKey: Uint8Array;
  /** Hexadecimal, positive, at most 20 octets (RFC 5280 §4.1.2.2). */
  readonly serialNumber: string;
  /** Milliseconds since 1970. */
  readonly notBefore: number;
  readonly notAfter: number;
}

export interface ApplicationWish extends Wanted {
  readonly applicationUri: string;
  /** Host names and addresses. */
  readonly hosts: readonly string[];
}

/**
 * DER of an application instance certificate with everything that Part 6 §6.2.2 asks for, right by construction:
 * version 3, one application URI, the hosts, key usage and extended key usage for both directions, key identifiers.
 */
export function issueApplicationCertificate(wish: ApplicationWish, signer: Signer): Promise<Uint8Array> {
  const isRsa = new PublicKey(bufferOf(wish.publicKey)).algorithm.name?.startsWith('RSA') ?? false;
  const usages = isRsa
    ? KeyUsageFlags.digitalSignature |
      KeyUsageFlags.nonRepudiation |
      KeyUsageFlags.keyEncipherment |
      KeyUsageFlags.dataEncipherment
    : KeyUsageFlags.digitalSignature | KeyUsageFlags.nonRepudiation;
  return issue(wish, signer, [
    new BasicConstraintsExtension(false, undefined, true),
    new KeyUsagesExtension(signer.certificate ? usages : usages | KeyUsageFlags.keyCertSign, true),
    new ExtendedKeyUsageExtension(['1.3.6.1.5.5.7.3.1', '1.3.6.1.5.5.7.3.2']),
    new SubjectAlternativeNameExtension([
      { type: 'url', value: wish.applicationUri },
      ...wish.hosts.map((value) => ({ type: isAddressLiteral(value) ? ('ip' as const) : ('dns' as const), value })),
    ]),
  ]);
}

/** DER of a certificate of a user (Part 4 §7.40.5): it signs, proves its holder to servers, and nothing else. */
export function issueUserCertificate(wish: Wanted, signer: Signer): Promise<Uint8Array> {
  return issue(wish, signer, [
    new BasicConstraintsExtension(false, undefined, true),
    new KeyUsagesExtension(KeyUsageFlags.digitalSignature | KeyUsageFlags.nonRepudiation, true),
    new ExtendedKeyUsageExtension(['1.3.6.1.5.5.7.3.2']),
  ]);
}

export interface AuthorityWish extends Wanted {
  /** How many authorities may stand below it; null: any number. */
  readonly pathLength: number | null;
}

/** DER of an authority’s certificate: it may sign certificates and CRLs, and nothing else. */
export function issueAuthorityCertificate(wish: AuthorityWish, signer: Signer): Promise<Uint8Array> {
  return issue(wish, signer, [
    new BasicConstraintsExtension(true, wish.pathLength ?? undefined, true),
    new KeyUsagesExtension(KeyUsageFlags.keyCertSign | KeyUsageFlags.cRLSign, true),
  ]);
}

/** What changes where an authority is renewed; its name and the authorities below it stay as they are. */
export type RenewalWish = Omit<Wanted, 'subject'>;

/**
 * DER of an authority’s certificate that takes the place of a self-signed one: the same name to the byte, and the same
 * path length. With the same key it keeps the key identifier, so that all that hangs below the one hangs below the other.
 */
export async function renewAuthorityCertificate(
  today: Uint8Array,
  wish: RenewalWish,
  signer: Omit<Signer, 'certificate'>,
): Promise<Uint8Array> {
  const before = new X509Certificate(bufferOf(today));
  const publicKey = new PublicKey(bufferOf(wish.publicKey));
  const hasSameKey = sameBytes(new Uint8Array(before.publicKey.rawData), wish.publicKey);
  const keyId =
    (hasSameKey ? before.getExtension(SubjectKeyIdentifierExtension) : null) ??
    (await SubjectKeyIdentifierExtension.create(publicKey));
  return sign(wish, publicKey, { subject: before.subjectName, issuer: before.subjectName }, signer, [
    before.getExtension(BasicConstraintsExtension) ?? new BasicConstraintsExtension(true, undefined, true),
    new KeyUsagesExtension(KeyUsageFlags.keyCertSign | KeyUsageFlags.cRLSign, true),
    keyId,
    new AuthorityKeyIdentifierExtension(keyId.keyId),
  ]);
}

async function issue(wish: Wanted, signer: Signer, extensions: readonly Extension[]): Promise<Uint8Array> {
  const publicKey = new PublicKey(bufferOf(wish.publicKey));
  const above = signer.certificate ? new X509Certificate(bufferOf(signer.certificate)) : null;
  const subject = jsonNameOf(wish.subject);
  return sign(wish, publicKey, { subject, issuer: above?.subjectName ?? subject }, signer, [
    ...extensions,
    await SubjectKeyIdentifierExtension.create(publicKey),
    await authorityKeyId(above, publicKey),
  ]);
}

async function sign(
  wish: RenewalWish,
  publicKey: PublicKey,
  { subject, issuer }: { readonly subject: JsonName | Name; readonly issuer: JsonName | Name },
  signer: Omit<Signer, 'certificate'>,
  extensions: Extension[],
): Promise<Uint8Array> {
  const made = await X509CertificateGenerator.create({
    serialNumber: wish.serialNumber,
    subject,
    issuer,
    notBefore: new Date(wish.notBefore),
    notAfter: new Date(wish.notAfter),
    publicKey,
    signingKey: signer.privateKey,
    signingAlgorithm: signatureOf(signer.kind),
    extensions,
  });
  return new Uint8Array(made.rawData);
}

/** The key identifier of the one that signs, as its certificate states it. */
export function authorityKeyId(
  above: X509Certificate | null,
  own: PublicKey,
): Promise<AuthorityKeyIdentifierExtension> | AuthorityKeyIdentifierExtension {
  const stated = above?.getExtension(SubjectKeyIdentifierExtension);
  return stated
    ? new AuthorityKeyIdentifierExtension(stated.keyId)
    : AuthorityKeyIdentifierExtension.create(above?.publicKey ?? own);
}

export const bufferOf = (bytes: Uint8Array): ArrayBuffer => Uint8Array.from(bytes).buffer;
