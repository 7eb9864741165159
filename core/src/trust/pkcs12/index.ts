import forge from 'node-forge';
import { readCertificate } from '../certificate.js';
import type { Certificate } from '../certificate.js';
import { writePem } from '../pem.js';

/** A certificate with its private key, as a PKCS#12 file (RFC 7292) carries them. */
export interface KeyedCertificate {
  readonly certificate: Certificate;
  /** PKCS#8. */
  readonly privateKeyPem: string;
  /** The other certificates of the file: most often the issuers. */
  readonly others: readonly Certificate[];
}

export type Pkcs12Result =
  { readonly ok: true; readonly entry: KeyedCertificate } | { readonly ok: false; readonly says: string };

const { oids } = forge.pki;

/** No program makes files with more rounds than this; one that wants more is made to keep the reader busy. */
const mostRounds = 1_000_000;

/**
 * Reads the one key, RSA or elliptic, and its certificate out of a PKCS#12 file, whichever ciphers it was made with.
 * A wrong passphrase, no key, several keys and a key that no certificate belongs to give a sentence; nothing is thrown.
 */
export function readPkcs12(der: Uint8Array, passphrase: string): Pkcs12Result {
  const opened = openFile(der, passphrase);
  if (typeof opened === 'string') return { ok: false, says: opened };
  const keys = [oids['pkcs8ShroudedKeyBag'], oids['keyBag']].flatMap((bagType) =>
    bagType ? (opened.getBags({ bagType })[bagType] ?? []) : [],
  );
  if (keys.length === 0) return { ok: false, says: 'This PKCS#12 file holds no private key.' };
  if (keys.length > 1)
    return {
      ok: false,
      says: `This PKCS#12 file holds ${keys.length} private keys. Give a file with just the one that is meant.`,
    };
  const [{ key, asn1 } = {}] = keys;
  if (!key && !asn1) return { ok: false, says: 'The private key of this PKCS#12 file can’t be read.' };
  const privateKey = key ? forge.pki.wrapRsaPrivateKey(forge.pki.privateKeyToAsn1(key)) : asn1;
  const certificates = certificatesIn(opened);
  const point = asn1 && !key ? pointIn(asn1) : null;
  const own = certificates.find((certificate) =>
    key ? belongs(certificate, key as forge.pki.rsa.PrivateKey) : point !== null && hasPoint(certificate, point),
  );
  if (!own || !privateKey)
    return {
      ok: false,
      says: 'No certificate of this PKCS#12 file belongs to its key; RSA keys and elliptic ones with their public half can be matched.',
    };
  return {
    ok: true,
    entry: {
      certificate: own,
      privateKeyPem: writePem('PRIVATE KEY', bytesOf(forge.asn1.toDer(privateKey).getBytes())),
      others: certificates.filter((certificate) => !certificate.is(own)),
    },
  };
}

function openFile(der: Uint8Array, passphrase: string): forge.pkcs12.Pkcs12Pfx | string {
  let parsed: forge.asn1.Asn1;
  try {
    parsed = forge.asn1.fromDer(forge.util.createBuffer(binaryOf(der)));
  } catch {
    return 'This is no PKCS#12 file: it is damaged or cut off.';
  }
  if (roundsIn(parsed).some((rounds) => rounds > mostRounds))
    return `This PKCS#12 file wants its passphrase hashed more than ${mostRounds.toLocaleString('en')} times, which would take too long. Export it again with less.`;
  try {
    return forge.pkcs12.pkcs12FromAsn1(parsed, passphrase);
  } catch (error) {
    const text = error instanceof Error ? error.message : '';
    return /MAC could not be verified|Invalid password/i.test(text)
      ? 'The passphrase does not open this PKCS#12 file.'
      : 'This is no PKCS#12 file that can be read.';
  }
}

/**
 * How often a passphrase is hashed for each part, as far as that can be seen before it is opened: the number that follows a
 * salt (RFC 7292 §4 MacData, RFC 8018 §A.2 PBKDF2-params, RFC 7292 §C pkcs-12PbeParams).
 */
function roundsIn(element: forge.asn1.Asn1): readonly number[] {
  if (typeof element.value === 'string') return isOctets(element) ? roundsWithin(element.value) : [];
  const parts = element.value as unknown as readonly forge.asn1.Asn1[];
  return parts.flatMap((part, index) => {
    const before = parts[index - 1];
    return before && isOctets(before) && part.type === forge.asn1.Type.INTEGER
      ? [numberIn(part.value as string)]
      : roundsIn(part);
  });
}

const isOctets = ({ tagClass, type }: forge.asn1.Asn1): boolean =>
  tagClass === forge.asn1.Class.UNIVERSAL && type === forge.asn1.Type.OCTETSTRING;

const numberIn = (bytes: string): number => [...bytes].reduce((sum, byte) => sum * 256 + byte.charCodeAt(0), 0);

/** Octets that hold DER themselves. */
function roundsWithin(octets: string): readonly number[] {
  try {
    return octets.startsWith('\x30') ? roundsIn(forge.asn1.fromDer(octets)) : [];
  } catch {
    return [];
  }
}

function certificatesIn(opened: forge.pkcs12.Pkcs12Pfx): readonly Certificate[] {
  const bagType = oids['certBag'] ?? '';
  return (opened.getBags({ bagType })[bagType] ?? []).flatMap(({ cert, asn1 }) => {
    const structure = cert ? forge.pki.certificateToAsn1(cert) : asn1;
    const read = structure ? readCertificate(bytesOf(forge.asn1.toDer(structure).getBytes())) : null;
    return read?.ok ? [read.certificate] : [];
  });
}

/** Whether the modulus of the certificate’s key is that of the private key. */
function belongs({ publicKey }: Certificate, key: forge.pki.rsa.PrivateKey): boolean {
  const modulus = forge.util.hexToBytes(key.n.toString(16).padStart(publicKey.bits / 4, '0'));
  return publicKey.kind === 'RSA' && binaryOf(publicKey.info).includes(modulus);
}

/** The public half that stands in an elliptic private key (RFC 5958 §2, RFC 5915 §3: publicKey [1]); null where it does not. */
function pointIn(privateKeyInfo: forge.asn1.Asn1): string | null {
  try {
    const octets = partsOf(privateKeyInfo)[2];
    const parts = octets && isOctets(octets) ? partsOf(forge.asn1.fromDer(octets.value as string)) : [];
    const tagged = parts.find(
      ({ tagClass, type }) => tagClass === forge.asn1.Class.CONTEXT_SPECIFIC && (type as number) === 1,
    );
    const bits = tagged ? partsOf(tagged)[0] : undefined;
    const value: unknown = bits?.value;
    // The first octet of a BIT STRING tells its unused bits (X.690 §8.6.2): a point has none.
    return typeof value === 'string' && value.startsWith('\x00\x04') ? value.slice(1) : null;
  } catch {
    return null;
  }
}

const partsOf = ({ value }: forge.asn1.Asn1): readonly forge.asn1.Asn1[] =>
  typeof value === 'string' ? [] : (value as unknown as readonly forge.asn1.Asn1[]);

const hasPoint = ({ publicKey }: Certificate, point: string): boolean =>
  publicKey.kind === 'EC' && binaryOf(publicKey.info).endsWith(point);

function binaryOf(bytes: Uint8Array): string {
  let binary = '';
  for (const byte of bytes) binary += String.fromCharCode(byte);
  return binary;
}

const bytesOf = (binary: string): Uint8Array => Uint8Array.from(binary, (letter) => letter.charCodeAt(0));
