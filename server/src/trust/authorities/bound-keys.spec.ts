import { constants, generateKeyPairSync, sign } from 'node:crypto';
import type { KeyObject, RSAPSSKeyPairKeyObjectOptions } from 'node:crypto';
import { plainKeyInfo, publicKeyOf, readCertificate, webCryptoVerifier } from '@loyal-hinge/core';
import { party, rootOf } from '../../../../core/src/testing/pki.js';
import { derTag, wholeElement } from '../../../../core/src/trust/x509/der.js';
import { nodeVerifier } from '../../certificates/node-signatures.js';

const spki = (key: KeyObject): Uint8Array => new Uint8Array(key.export({ type: 'spki', format: 'der' }));
const keyIn = (info: Uint8Array) => publicKeyOf(wholeElement(info, derTag.sequence));
const signed = new TextEncoder().encode('what was signed');
const pssBy = (key: KeyObject, hash: 'SHA-256' | 'SHA-512', saltLength: number) => ({
  signed,
  signatureAlgorithm: { kind: 'RSA-PSS', hash, saltLength } as const,
  signature: sign(hash, signed, { key, padding: constants.RSA_PKCS1_PSS_PADDING, saltLength }),
});

describe('an RSA key that signs by RSASSA-PSS alone', () => {
  // Node takes the salt as a number, and needs no hash, whatever its types say.
  const make = (how: object) =>
    generateKeyPairSync('rsa-pss', { modulusLength: 2048, ...how } as unknown as RSAPSSKeyPairKeyObjectOptions);
  const bound = make({ hashAlgorithm: 'sha256', mgf1HashAlgorithm: 'sha256', saltLength: 32 });
  const free = make({});

  it('is read with what it is bound to', () => {
    const key = keyIn(spki(bound.publicKey));
    expect(key).toMatchObject({ kind: 'RSA', bits: 2048, pss: { kind: 'RSA-PSS', hash: 'SHA-256', saltLength: 32 } });
    expect(keyIn(spki(free.publicKey)).pss).toBe('any');
    expect(keyIn(plainKeyInfo(key.pkcs1 ?? new Uint8Array())).pss).toBeNull();
  });

  it.each([
    ['WebCrypto', webCryptoVerifier],
    ['Node', nodeVerifier],
  ])('verifies by %s what it may sign, and nothing else', async (_, verifier) => {
    const [boundKey, freeKey] = [keyIn(spki(bound.publicKey)), keyIn(spki(free.publicKey))];
    expect(await verifier(boundKey, pssBy(bound.privateKey, 'SHA-256', 32))).toBe(true);
    expect(await verifier(freeKey, pssBy(free.privateKey, 'SHA-512', 20))).toBe(true);
    const plain = generateKeyPairSync('rsa', { modulusLength: 2048 });
    const { pkcs1 } = keyIn(spki(plain.publicKey));
    // The same numbers, once bound to nothing and once to PSS with SHA-256.
    const asBound = { ...boundKey, pkcs1 };
    for (const other of [pssBy(plain.privateKey, 'SHA-512', 32), pssBy(plain.privateKey, 'SHA-256', 20)]) {
      expect(await verifier(keyIn(spki(plain.publicKey)), other)).toBe(true);
      expect(await verifier(asBound, other)).toBe(false);
    }
    const older = {
      signed,
      signatureAlgorithm: { kind: 'RSA PKCS#1 v1.5', hash: 'SHA-256' } as const,
      signature: sign('SHA-256', signed, plain.privateKey),
    };
    expect(await verifier(keyIn(spki(plain.publicKey)), older)).toBe(true);
    expect(await verifier(asBound, older)).toBe(false);
  });
});

describe('a key or a signature of a form that is not taken', () => {
  it('is a key that describes its curve itself', () => {
    const { publicKey } = generateKeyPairSync('ec', { namedCurve: 'P-256', paramEncoding: 'explicit' });
    expect(() => keyIn(spki(publicKey))).toThrow('names no curve');
  });

  it('is a signature with bits to spare, which would be a second form of one certificate', async () => {
    const der = Uint8Array.from(await rootOf(await party('Root', 'RSA')));
    const spare = der.length - 256 - 1;
    expect(der[spare]).toBe(0);
    der[spare] = 1;
    expect(readCertificate(der)).toMatchObject({ ok: false, says: expect.stringContaining('whole bytes') });
  });
});
