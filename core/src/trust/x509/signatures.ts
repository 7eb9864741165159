import { plainKeyInfo } from './algorithms.js';
import type { PublicKey, SignatureAlgorithm } from './algorithms.js';
import { DerFault, contentOf, derTag, expectTag, integerBytes, partsOf, wholeElement } from './der.js';

/** Something that was signed: the signed bytes, how, and the signature. */
export interface Signed {
  readonly signed: Uint8Array;
  readonly signatureAlgorithm: SignatureAlgorithm;
  readonly signature: Uint8Array;
}

/** Tells whether a key made a signature. Never throws; an unfit key or an unknown algorithm made nothing. */
export type SignatureVerifier = (key: PublicKey, signed: Signed) => boolean | Promise<boolean>;

/** By WebCrypto, which browsers, workers and Node have. */
export const webCryptoVerifier: SignatureVerifier = async (key, { signed, signatureAlgorithm, signature }) => {
  if (!fits(key, signatureAlgorithm)) return false;
  try {
    switch (signatureAlgorithm.kind) {
      case 'RSA PKCS#1 v1.5':
        return await verify({ name: 'RSASSA-PKCS1-v1_5', hash: signatureAlgorithm.hash }, {}, key, signature, signed);
      case 'RSA-PSS': {
        const { hash, saltLength } = signatureAlgorithm;
        return await verify({ name: 'RSA-PSS', hash }, { saltLength }, key, signature, signed);
      }
      case 'ECDSA': {
        const { hash } = signatureAlgorithm;
        const flat = flatSignature(signature, Math.ceil(key.bits / 8));
        return await verify({ name: 'ECDSA', namedCurve: key.curve ?? '' }, { hash }, key, flat, signed);
      }
      case 'Ed25519':
        return await verify({ name: 'Ed25519' }, {}, key, signature, signed);
      case 'unknown':
        return false;
    }
  } catch {
    return false;
  }
};

/** Whether a key is of the kind that an algorithm needs. */
export function fits({ kind, pss }: PublicKey, algorithm: SignatureAlgorithm): boolean {
  switch (algorithm.kind) {
    case 'RSA PKCS#1 v1.5':
      return kind === 'RSA' && pss === null;
    case 'RSA-PSS':
      return kind === 'RSA' && (pss === null || pss === 'any' || isAllowedBy(pss, algorithm));
    case 'ECDSA':
      return kind === 'EC';
    case 'Ed25519':
      return kind === 'Ed25519';
    case 'unknown':
      return false;
  }
}

/** RFC 4055 §3.1: the hash is the one that the key names, the salt at least as long. */
const isAllowedBy = (bound: SignatureAlgorithm, used: SignatureAlgorithm & { readonly kind: 'RSA-PSS' }): boolean =>
  bound.kind === 'RSA-PSS' && bound.hash === used.hash && bound.saltLength <= used.saltLength;

async function verify(
  algorithm: { name: string; hash?: string; namedCurve?: string },
  how: { hash?: string; saltLength?: number },
  key: PublicKey,
  signature: Uint8Array,
  signed: Uint8Array,
): Promise<boolean> {
  const info = Uint8Array.from(key.pss !== null && key.pkcs1 ? plainKeyInfo(key.pkcs1) : key.info);
  const imported = await crypto.subtle.importKey('spki', info, algorithm, false, ['verify']);
  return crypto.subtle.verify(
    { name: algorithm.name, ...how },
    imported,
    Uint8Array.from(signature),
    Uint8Array.from(signed),
  );
}

/** ECDSA-Sig-Value (RFC 3279 §2.2.3) as the two numbers side by side. */
function flatSignature(der: Uint8Array, width: number): Uint8Array {
  const flat = new Uint8Array(2 * width);
  const numbers = partsOf(wholeElement(der, derTag.sequence));
  if (numbers.length !== 2) throw new DerFault('the signature has not two numbers');
  numbers.forEach((number, index) => {
    integerBytes(expectTag(number, derTag.integer));
    const bytes = contentOf(number);
    const start = bytes.findIndex((byte) => byte !== 0);
    const digits = start < 0 ? bytes.subarray(bytes.length) : bytes.subarray(start);
    if (digits.length > width) throw new DerFault('the signature is too long');
    flat.set(digits, (index + 1) * width - digits.length);
  });
  return flat;
}
