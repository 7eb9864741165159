import fc from 'fast-check';
import forge from 'node-forge';
import { certify, party } from '../../testing/pki.js';
import type { Party } from '../../testing/pki.js';
import { readPkcs12 } from './index.js';

const binary = (bytes: Uint8Array): string => Buffer.from(bytes).toString('latin1');
const certificateOf = (der: Uint8Array): forge.pki.Certificate =>
  forge.pki.certificateFromAsn1(forge.asn1.fromDer(binary(der)));

async function keyOf({ keys }: Party): Promise<forge.pki.rsa.PrivateKey> {
  const pkcs8 = new Uint8Array(await crypto.subtle.exportKey('pkcs8', keys.privateKey));
  return forge.pki.privateKeyFromAsn1(forge.asn1.fromDer(binary(pkcs8))) as forge.pki.rsa.PrivateKey;
}

const fileOf = (structure: forge.asn1.Asn1): Uint8Array =>
  Uint8Array.from(Buffer.from(forge.asn1.toDer(structure).getBytes(), 'latin1'));

/** One file with the contents of two (RFC 7292 §4: PFX, ContentInfo, AuthenticatedSafe). */
function both(one: forge.asn1.Asn1, two: forge.asn1.Asn1): forge.asn1.Asn1 {
  const [safe, other] = [safeOf(one), safeOf(two)];
  const merged = forge.asn1.fromDer(safe.value as string);
  (merged.value as forge.asn1.Asn1[]).push(...(forge.asn1.fromDer(other.value as string).value as forge.asn1.Asn1[]));
  safe.value = forge.asn1.toDer(merged).getBytes();
  return one;
}

function safeOf(file: forge.asn1.Asn1): forge.asn1.Asn1 {
  const part = (of: forge.asn1.Asn1, index: number) => (of.value as forge.asn1.Asn1[])[index] as forge.asn1.Asn1;
  return part(part(part(file, 1), 1), 0);
}

/** A file with an elliptic key, which the library reads but does not write (RFC 7292 §4.2: keyBag, pkcs8ShroudedKeyBag). */
async function ellipticFile(
  { keys }: Party,
  certificates: readonly Uint8Array[],
  how: 'sealed' | 'open',
): Promise<Uint8Array> {
  const { asn1, pki } = forge;
  const { Class, Type } = asn1;
  const sequence = (...parts: forge.asn1.Asn1[]) => asn1.create(Class.UNIVERSAL, Type.SEQUENCE, true, parts);
  const tagged = (part: forge.asn1.Asn1) => asn1.create(Class.CONTEXT_SPECIFIC, 0 as forge.asn1.Type, true, [part]);
  const oid = (name: string) =>
    asn1.create(Class.UNIVERSAL, Type.OID, false, asn1.oidToDer(pki.oids[name] ?? '').getBytes());
  const octets = (part: forge.asn1.Asn1) =>
    asn1.create(Class.UNIVERSAL, Type.OCTETSTRING, false, asn1.toDer(part).getBytes());
  const certificateBag = (der: Uint8Array) =>
    sequence(oid('certBag'), tagged(sequence(oid('x509Certificate'), tagged(octets(asn1.fromDer(binary(der)))))));
  const info = asn1.fromDer(binary(new Uint8Array(await crypto.subtle.exportKey('pkcs8', keys.privateKey))));
  const keyBag =
    how === 'open'
      ? sequence(oid('keyBag'), tagged(info))
      : sequence(
          oid('pkcs8ShroudedKeyBag'),
          tagged(pki.encryptPrivateKeyInfo(info, 'open it', { algorithm: 'aes256' }) as unknown as forge.asn1.Asn1),
        );
  const data = (part: forge.asn1.Asn1) => sequence(oid('data'), tagged(octets(part)));
  const safe = sequence(data(sequence(keyBag, ...certificates.map(certificateBag))));
  const version = asn1.create(Class.UNIVERSAL, Type.INTEGER, false, asn1.integerToDer(3).getBytes());
  return fileOf(sequence(version, data(safe)));
}

let furnace: Party;
let leaf: Uint8Array;
let issuer: Uint8Array;
let file: Uint8Array;
beforeAll(async () => {
  const works = await party('Works CA', 'RSA');
  furnace = await party('furnace', 'RSA');
  issuer = await certify(works, works, { authority: true });
  leaf = await certify(furnace, works);
  file = fileOf(
    forge.pkcs12.toPkcs12Asn1(await keyOf(furnace), [certificateOf(issuer), certificateOf(leaf)], 'open it', {
      algorithm: 'aes256',
    }),
  );
});

describe('a PKCS#12 file', () => {
  it('gives the certificate that belongs to its key, and the others', async () => {
    const read = readPkcs12(file, 'open it');
    if (!read.ok) throw new Error(read.says);
    const { certificate, others, privateKeyPem } = read.entry;
    expect(certificate.subject.text).toBe('CN=furnace, O=Works');
    expect(others.map(({ subject }) => subject.text)).toEqual(['CN=Works CA, O=Works']);
    const mine = await crypto.subtle.exportKey('pkcs8', furnace.keys.privateKey);
    const body = privateKeyPem.replace(/-----[A-Z ]+-----|\n/g, '');
    expect(body).toBe(Buffer.from(mine).toString('base64'));
  });

  it('of an older make, with 3DES, is read as well', async () => {
    const old = fileOf(
      forge.pkcs12.toPkcs12Asn1(await keyOf(furnace), [certificateOf(leaf)], 'open it', { algorithm: '3des' }),
    );
    expect(readPkcs12(old, 'open it')).toMatchObject({ ok: true });
  });

  it.each(['sealed', 'open'] as const)(
    'with an elliptic key, %s, gives the certificate that belongs to it',
    async (how) => {
      const elliptic = await party('lehr', 'P-256');
      const der = await certify(elliptic, elliptic);
      const read = readPkcs12(await ellipticFile(elliptic, [issuer, der], how), 'open it');
      if (!read.ok) throw new Error(read.says);
      expect(read.entry.certificate.subject.text).toBe('CN=lehr, O=Works');
      expect(read.entry.others).toHaveLength(1);
      const mine = await crypto.subtle.exportKey('pkcs8', elliptic.keys.privateKey);
      expect(read.entry.privateKeyPem.replace(/-----[A-Z ]+-----|\n/g, '')).toBe(Buffer.from(mine).toString('base64'));
      const strange = readPkcs12(await ellipticFile(await party('other', 'P-256'), [der], how), 'open it');
      expect(strange).toMatchObject({ ok: false, says: expect.stringContaining('belongs to its key') });
    },
  );

  it('is not opened by another passphrase', () => {
    expect(readPkcs12(file, 'open it!')).toEqual({
      ok: false,
      says: 'The passphrase does not open this PKCS#12 file.',
    });
  });

  it('without a key, or with one that no certificate belongs to, says so', async () => {
    const other = await keyOf(await party('other', 'RSA'));
    const strange = fileOf(forge.pkcs12.toPkcs12Asn1(other, [certificateOf(leaf)], 'x', { algorithm: 'aes256' }));
    expect(readPkcs12(strange, 'x')).toMatchObject({ ok: false, says: expect.stringContaining('belongs to its key') });
    const bare = forge.pkcs12.toPkcs12Asn1(null, [certificateOf(leaf)], 'x');
    expect(readPkcs12(fileOf(bare), 'x')).toEqual({ ok: false, says: 'This PKCS#12 file holds no private key.' });
  });

  it('with several keys asks for one with just the key that is meant', async () => {
    const other = await keyOf(await party('other', 'RSA'));
    const options = { algorithm: 'aes256', useMac: false } as const;
    const [one, two] = [await keyOf(furnace), other].map((key) =>
      forge.pkcs12.toPkcs12Asn1(key, [certificateOf(leaf)], 'x', options),
    );
    if (!one || !two) throw new Error('no files');
    expect(readPkcs12(fileOf(both(one, two)), 'x')).toEqual({
      ok: false,
      says: 'This PKCS#12 file holds 2 private keys. Give a file with just the one that is meant.',
    });
  });

  it('that is cut off or broken gives a sentence, and nothing throws', () => {
    fc.assert(
      fc.property(fc.nat(file.length - 1), fc.integer({ min: 1, max: 255 }), (at, change) => {
        expect(readPkcs12(file.subarray(0, at), 'open it').ok).toBe(false);
        const broken = Uint8Array.from(file);
        broken[at] = (broken[at] ?? 0) ^ change;
        const read = readPkcs12(broken, 'open it');
        expect(read.ok || read.says.length > 10).toBe(true);
      }),
      { numRuns: 40 },
    );
  });
});
