import fc from 'fast-check';
import { certify, party, rawExtension, read, rootOf } from '../testing/pki.js';
import type { Algorithm, Party } from '../testing/pki.js';
import { commonName, readCertificate } from './certificate.js';
import { webCryptoVerifier } from './x509/signatures.js';

let works: Party;
let leaf: Uint8Array;
beforeAll(async () => {
  works = await party('Works CA', 'RSA');
  leaf = await certify(await party('furnace', 'RSA'), works, { serial: '0fa1', dns: ['furnace.works.example', 'f'] });
});

describe('a certificate', () => {
  it('says everything that matters', () => {
    expect(read(leaf).summary).toMatchObject({
      subject: 'CN=furnace, O=Works',
      issuer: 'CN=Works CA, O=Works',
      serialNumber: '0FA1',
      notBefore: '2025-01-01T00:00:00.000Z',
      notAfter: '2030-01-01T00:00:00.000Z',
      applicationUris: ['urn:works.example:furnace'],
      dnsNames: ['furnace.works.example', 'f'],
      keyType: 'RSA',
      keyBits: 2048,
      signatureHash: 'SHA-256',
      keyUsages: ['digitalSignature', 'nonRepudiation', 'keyEncipherment', 'dataEncipherment'],
      extendedKeyUsages: ['serverAuth', 'clientAuth'],
      isAuthority: false,
      selfIssued: false,
    });
  });

  it('has the thumbprints that WebCrypto reckons', async () => {
    const hex = async (hash: string) =>
      Buffer.from(await crypto.subtle.digest(hash, Uint8Array.from(leaf)))
        .toString('hex')
        .toUpperCase();
    expect(read(leaf).summary).toMatchObject({ thumbprint: await hex('SHA-1'), sha256: await hex('SHA-256') });
  });

  it('of an authority tells its path length', async () => {
    expect(read(await rootOf(works, { pathLength: 2 })).summary).toMatchObject({
      isAuthority: true,
      pathLength: 2,
      selfIssued: true,
      keyUsages: ['keyCertSign', 'cRLSign'],
    });
  });

  it.each<Algorithm>(['RSA', 'RSA-PSS', 'P-256', 'P-384', 'Ed25519'])(
    'signed with %s is verified',
    async (algorithm) => {
      const [signer, other] = await Promise.all([party('CA', algorithm), party('CA', algorithm)]);
      const certificate = read(await certify(other, signer));
      expect(await webCryptoVerifier(read(await rootOf(signer)).publicKey, certificate)).toBe(true);
      expect(await webCryptoVerifier(read(await rootOf(other)).publicKey, certificate)).toBe(false);
    },
  );

  it('knows which critical extensions it does not know', async () => {
    const odd = await certify(works, works, { more: [rawExtension('1.3.6.1.4.1.99999.7', true, 5, 0)] });
    expect(read(odd).extensions.unknownCritical).toEqual(['1.3.6.1.4.1.99999.7']);
    const harmless = await certify(works, works, { more: [rawExtension('1.3.6.1.4.1.99999.7', false, 5, 0)] });
    expect(read(harmless).extensions.unknownCritical).toEqual([]);
  });
});

describe('the reader of certificates', () => {
  it('never throws, and takes no certificate that is cut off', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: leaf.length - 1 }), (length) => {
        expect(readCertificate(leaf.subarray(0, length)).ok).toBe(false);
      }),
    );
  });

  it('takes none with bytes behind it', () => {
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 1, maxLength: 40 }), (behind) => {
        expect(readCertificate(Uint8Array.from([...leaf, ...behind]))).toMatchObject({
          ok: false,
          says: expect.stringContaining(`${behind.length} bytes follow its end`),
        });
      }),
    );
  });

  it('never throws at whatever a broken byte makes of it, and never changes what it was given', () => {
    fc.assert(
      fc.property(fc.nat(leaf.length - 1), fc.integer({ min: 1, max: 255 }), (at, change) => {
        const broken = Uint8Array.from(leaf);
        broken[at] = (broken[at] ?? 0) ^ change;
        const before = Buffer.from(broken).toString('hex');
        const result = readCertificate(broken);
        expect(typeof (result.ok ? result.certificate.summary.subject : result.says)).toBe('string');
        expect(Buffer.from(broken).toString('hex')).toBe(before);
      }),
      { numRuns: 2000 },
    );
  });

  it('never throws at anything that begins like DER', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 200 }), (rest) => {
        expect(readCertificate(Uint8Array.from([0x30, ...rest])).ok).toBe(false);
      }),
      { numRuns: 1000 },
    );
  });
});

describe('a common name', () => {
  it.each([
    ['CN=Furnace, O=Works', 'Furnace'],
    ['O=Works, CN=Furnace\\, old', 'Furnace, old'],
    ['O=Works', 'O=Works'],
  ])('of %s', (name, common) => expect(commonName(name)).toBe(common));
});
