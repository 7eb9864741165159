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
