import 'reflect-metadata';
import {
  AuthorityKeyIdentifierExtension,
  BasicConstraintsExtension,
  ExtendedKeyUsageExtension,
  Extension,
  KeyUsageFlags,
  KeyUsagesExtension,
  SubjectAlternativeNameExtension,
  SubjectKeyIdentifierExtension,
  X509CertificateGenerator,
  X509CrlGenerator,
} from '@peculiar/x509';
import type { X509CrlEntryParams } from '@peculiar/x509';
import { readCertificate } from '../trust/certificate.js';
import type { Certificate } from '../trust/certificate.js';

export type Algorithm = 'RSA' | 'RSA-PSS' | 'P-256' | 'P-384' | 'Ed25519';

const algorithms = {
  RSA: { name: 'RSASSA-PKCS1-v1_5', hash: 'SHA-256', publicExponent: new Uint8Array([1, 0, 1]), modulusLength: 2048 },
  'RSA-PSS': { name: 'RSA-PSS', hash: 'SHA-256', publicExponent: new Uint8Array([1, 0, 1]), modulusLength: 2048 },
  'P-256': { name: 'ECDSA', namedCurve: 'P-256', hash: 'SHA-256' },
  'P-384': { name: 'ECDSA', namedCurve: 'P-384', hash: 'SHA-384' },
  Ed25519: { name: 'Ed25519' },
} as const;

const signingOf = (algorithm: Algorithm) =>
  algorithm === 'RSA-PSS' ? { ...algorithms['RSA-PSS'], saltLength: 32 } : algorithms[algorithm];

/** A key with a name: an authority or an application of a test. */
export interface Party {
  readonly name: string;
  readonly algorithm: Algorithm;
  readonly keys: CryptoKeyPair;
}

export async function party(name: string, algorithm: Algorithm = 'P-256'): Promise<Party> {
  const keys = (await crypto.subtle.generateKey(algorithms[algorithm], true, ['sign', 'verify'])) as CryptoKeyPair;
  return { name, algorithm, keys };
}

export interface Wish {
  readonly from?: string;
  readonly to?: string;
  readonly serial?: string;
  readonly authority?: boolean;
  readonly pathLength?: number;
  readonly usages?: number;
  /** Whether the usages are marked critical, as they are where nothing else is wished. */
  readonly usageIsBinding?: boolean;
  readonly uri?: string;
  readonly dns?: readonly string[];
  readonly keyIds?: boolean;
  readonly more?: readonly Extension[];
  /** Another subject’s name, for certificates that are renewed or forged. */
  readonly subjectName?: string;
  readonly issuerName?: string;
}

const applicationUsages =
  KeyUsageFlags.digitalSignature |
  KeyUsageFlags.nonRepudiation |
  KeyUsageFlags.keyEncipherment |
  KeyUsageFlags.dataEncipherment;

let serials = 1000;

/** DER of a certificate of a subject by an issuer. Valid through 2025 to 2029 where nothing else is wished. */
export async function certify(subject: Party, issuer: Party, wish: Wish = {}): Promise<Uint8Array> {
  serials += 1;
  const authority = wish.authority ?? false;
  const made = await X509CertificateGenerator.create({
    serialNumber: wish.serial ?? serials.toString(16).padStart(4, '0'),
    subject: wish.subjectName ?? `CN=${subject.name}, O=Works`,
    issuer: wish.issuerName ?? `CN=${issuer.name}, O=Works`,
    notBefore: new Date(wish.from ?? '2025-01-01'),
    notAfter: new Date(wish.to ?? '2030-01-01'),
    publicKey: subject.keys.publicKey,
    signingKey: issuer.keys.privateKey,
    signingAlgorithm: signingOf(issuer.algorithm),
    extensions: [
      new BasicConstraintsExtension(authority, wish.pathLength, true),
      new KeyUsagesExtension(
        wish.usages ?? (authority ? KeyUsageFlags.keyCertSign | KeyUsageFlags.cRLSign : applicationUsages),
        wish.usageIsBinding ?? true,
      ),
      ...(authority ? [] : [new ExtendedKeyUsageExtension(['1.3.6.1.5.5.7.3.1', '1.3.6.1.5.5.7.3.2'])]),
      ...(authority
        ? []
        : [
            new SubjectAlternativeNameExtension([
              { type: 'url', value: wish.uri ?? `urn:works.example:${subject.name}` },
              ...(wish.dns ?? ['furnace.works.example']).map((value) => ({ type: 'dns' as const, value })),
            ]),
          ]),
      ...(wish.keyIds === false
        ? []
        : [
            await SubjectKeyIdentifierExtension.create(subject.keys.publicKey),
            await AuthorityKeyIdentifierExtension.create(issuer.keys.publicKey),
          ]),
      ...(wish.more ?? []),
    ],
  });
  return new Uint8Array(made.rawData);
}

/** A self-signed authority. */
export const rootOf = (authority: Party, wish: Wish = {}): Promise<Uint8Array> =>
  certify(authority, authority, { authority: true, ...wish });

export interface CrlWish {
  readonly revoked?: readonly X509CrlEntryParams[];
  readonly thisUpdate?: string;
  readonly nextUpdate?: string;
  readonly more?: readonly Extension[];
}

/** DER of a CRL of an issuer. */
export async function revoke(issuer: Party, wish: CrlWish = {}): Promise<Uint8Array> {
  const crl = await X509CrlGenerator.create({
    issuer: `CN=${issuer.name}, O=Works`,
    thisUpdate: new Date(wish.thisUpdate ?? '2026-02-01'),
    nextUpdate: new Date(wish.nextUpdate ?? '2026-06-01'),
    signingAlgorithm: signingOf(issuer.algorithm),
    signingKey: issuer.keys.privateKey,
    entries: [...(wish.revoked ?? [])],
    extensions: [...(wish.more ?? [])],
  });
  return new Uint8Array(crl.rawData);
}

export function read(der: Uint8Array): Certificate {
  const result = readCertificate(der);
  if (!result.ok) throw new Error(result.says);
  return result.certificate;
}

/** An extension made of raw bytes. */
export const rawExtension = (oid: string, critical: boolean, ...bytes: number[]): Extension =>
  new Extension(oid, critical, Uint8Array.from(bytes));

/** A DER element of fewer than 128 bytes. */
export function tlv(tag: number, ...parts: (number | readonly number[])[]): number[] {
  const content = parts.flat();
  if (content.length > 127) throw new Error('that is longer than these tests need');
  return [tag, content.length, ...content];
}

const textBytes = (text: string): number[] => [...Buffer.from(text, 'latin1')];
const uriName = (uri: string): number[] => tlv(0x86, textBytes(uri));
/** `CN=…, O=Works`, as the parties of these tests are called. */
const nameOf = (party: string): number[] => {
  const part = (letter: number, text: string): number[] =>
    tlv(0x31, tlv(0x30, [6, 3, 0x55, 4, letter], tlv(0x0c, textBytes(text))));
  return tlv(0x30, part(3, party), part(10, 'Works'));
};
const directoryName = (party: string): number[] => tlv(0xa4, nameOf(party));

export const reasonBits = { keyCompromise: 0x40, superseded: 0x08, allButThose: 0xb7 } as const;
const reasonFlags = (tag: number, bits: number): number[] =>
  // All others: the seven that are left of the first eight, and the ninth.
  bits === reasonBits.allButThose ? tlv(tag, [7, 0x37, 0x80]) : tlv(tag, [0, bits]);

export interface PointWish {
  readonly uri?: string;
  readonly reasons?: number;
  /** The name of the party that issues the CRL in the issuer’s stead. */
  readonly by?: string;
}

/** CRLDistributionPoints of a certificate. */
export const distributionPoints = (...points: readonly PointWish[]): Extension =>
  rawExtension(
    '2.5.29.31',
    false,
    ...tlv(
      0x30,
      points.flatMap(({ uri, reasons, by }) =>
        tlv(
          0x30,
          uri === undefined ? [] : tlv(0xa0, tlv(0xa0, uriName(uri))),
          reasons === undefined ? [] : reasonFlags(0x81, reasons),
          by === undefined ? [] : tlv(0xa2, directoryName(by)),
        ),
      ),
    ),
  );

export interface IssuingPointWish {
  readonly uri?: string;
  readonly of?: 'users' | 'authorities' | 'attributes';
  readonly reasons?: number;
  readonly indirect?: boolean;
}

/** IssuingDistributionPoint of a CRL. */
export const issuingPoint = ({ uri, of, reasons, indirect }: IssuingPointWish): Extension =>
  rawExtension(
    '2.5.29.28',
    true,
    ...tlv(
      0x30,
      uri === undefined ? [] : tlv(0xa0, tlv(0xa0, uriName(uri))),
      of === 'users' ? [0x81, 1, 0xff] : of === 'authorities' ? [0x82, 1, 0xff] : [],
      reasons === undefined ? [] : reasonFlags(0x83, reasons),
      indirect ? [0x84, 1, 0xff] : [],
      of === 'attributes' ? [0x85, 1, 0xff] : [],
    ),
  );

export const crlNumber = (number: number): Extension => rawExtension('2.5.29.20', false, 2, 1, number);
/** It tells what has changed since the CRL of that number. */
export const deltaOf = (number: number): Extension => rawExtension('2.5.29.27', true, 2, 1, number);
/** Of an entry: whose certificate it is, from here on. */
export const entryOfIssuer = (party: string): Extension =>
  rawExtension('2.5.29.29', true, ...tlv(0x30, directoryName(party)));
