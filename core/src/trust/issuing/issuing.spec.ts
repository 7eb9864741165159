import { party, read } from '../../testing/pki.js';
import { crlIn } from '../../testing/plant-trust.js';
import { lintCertificate } from '../lint/index.js';
import { validateCertificate } from '../validation.js';
import { webCryptoVerifier } from '../x509/signatures.js';
import { readCertificate } from '../certificate.js';
import {
  exportKey,
  freshSerialNumber,
  issueApplicationCertificate,
  issueAuthorityCertificate,
  issueRevocationList,
  keyKinds,
  makeKeys,
  makeSigningRequest,
  readSigningRequest,
  renewAuthorityCertificate,
} from './index.js';
import type { KeyKind, Signer } from './index.js';

const [from, to] = [Date.parse('2026-01-01'), Date.parse('2028-01-01')];
const valid = { notBefore: from, notAfter: to };

async function authorityOf(kind: KeyKind): Promise<Signer & { certificate: Uint8Array }> {
  const keys = await makeKeys(kind);
  const self = { kind, privateKey: keys.privateKey, certificate: null };
  const subject = { commonName: 'Works CA', organization: 'Łódź, Works' };
  const certificate = await issueAuthorityCertificate(
    {
      subject,
      publicKey: await exportKey('spki', keys.publicKey),
      serialNumber: freshSerialNumber(),
      pathLength: 0,
      ...valid,
    },
    self,
  );
  return { ...self, certificate };
}

const application = {
  subject: { commonName: 'Furnace server', organization: 'Works' },
  applicationUri: 'urn:works.example:furnace',
  hosts: ['furnace.works.example', '10.0.0.1'],
  ...valid,
};

describe('an application certificate that we issue', () => {
  it.each(keyKinds.filter((kind) => kind !== 'RSA 4096'))(
    'signed with %s passes all steps and the linter',
    async (kind) => {
      const authority = await authorityOf(kind);
      const keys = await makeKeys('RSA 2048');
      const der = await issueApplicationCertificate(
        { ...application, publicKey: await exportKey('spki', keys.publicKey), serialNumber: freshSerialNumber() },
        authority,
      );
      const crl = await issueRevocationList({ number: 1, thisUpdate: from, nextUpdate: to, revoked: [] }, authority);
      const judged = await validateCertificate({
        certificate: der,
        sentIssuers: [],
        trustList: { trusted: [authority.certificate], issuers: [], crls: [crl] },
        at: '2026-03-01T00:00:00.000Z',
        applicationUri: application.applicationUri,
        host: '10.0.0.1',
        policy: null,
        crlsDemanded: true,
        warnDays: 0,
      });
      expect(judged.steps.filter(({ result }) => result === 'failed')).toEqual([]);
      expect(judged.status).toBe('Good');
      expect(lintCertificate(read(der)).filter(({ severity }) => severity === 'error')).toEqual([]);
    },
  );

  it('names its authority by the authority’s own key identifier', async () => {
    const authority = await authorityOf('P-256');
    const keys = await makeKeys('P-256');
    const der = await issueApplicationCertificate(
      { ...application, publicKey: await exportKey('spki', keys.publicKey), serialNumber: '4001' },
      authority,
    );
    const [leaf, root] = [read(der), read(authority.certificate)];
    expect(leaf.extensions.authorityKeyId).toBe(root.extensions.subjectKeyId);
    expect(leaf.issuer.equals(root.subject)).toBe(true);
    expect(leaf.summary.keyUsages).toEqual(['digitalSignature', 'nonRepudiation']);
  });

  it('signs itself where nobody else does', async () => {
    const keys = await makeKeys('P-256');
    const der = await issueApplicationCertificate(
      { ...application, publicKey: await exportKey('spki', keys.publicKey), serialNumber: '4001' },
      { kind: 'P-256', privateKey: keys.privateKey, certificate: null },
    );
    expect(await webCryptoVerifier(read(der).publicKey, read(der))).toBe(true);
    expect(read(der).summary).toMatchObject({ selfIssued: true, isAuthority: false });
  });
});

describe('an authority that we make', () => {
  it('may sign certificates and CRLs, and has the path length that was wished', async () => {
    expect(read((await authorityOf('P-256')).certificate).summary).toMatchObject({
      isAuthority: true,
      pathLength: 0,
      keyUsages: ['keyCertSign', 'cRLSign'],
      subject: 'CN=Works CA, O=Łódź\\, Works',
    });
  });
});

describe('a CRL that we issue', () => {
  it.each([1, 127, 128, 255, 256, 70_000])('carries its number %i', async (number) => {
    const authority = await authorityOf('P-256');
    const der = await issueRevocationList({ number, thisUpdate: from, nextUpdate: to, revoked: [] }, authority);
    expect(Number.parseInt(crlIn(der).number ?? '', 16)).toBe(number);
  });

  it('tells whom it revokes, since when and why', async () => {
    const authority = await authorityOf('P-256');
    const revoked = [{ serialNumber: '4a01', since: Date.parse('2026-02-03'), reason: 'keyCompromise' as const }];
    const crl = crlIn(await issueRevocationList({ number: 2, thisUpdate: from, nextUpdate: to, revoked }, authority));
    expect([...crl.revoked.values()]).toMatchObject([
      { serialNumber: '4A01', since: '2026-02-03T00:00:00.000Z', reason: 'keyCompromise' },
    ]);
    expect(crl.authorityKeyId).toBe(read(authority.certificate).extensions.subjectKeyId);
  });
});

describe('a signing request', () => {
  const made = async () => {
    const keys = await makeKeys('RSA 2048');
    return { keys, der: await makeSigningRequest({ ...application, kind: 'RSA 2048', keys }) };
  };

  it('comes back with all that it asks for', async () => {
    const { keys, der } = await made();
    expect(await readSigningRequest(der)).toEqual({
      ok: true,
      request: {
        subject: application.subject,
        applicationUris: [application.applicationUri],
        hosts: application.hosts,
        publicKey: await exportKey('spki', keys.publicKey),
        keyType: 'RSA',
      },
    });
  });

  it('is refused where its signature does not fit its key', async () => {
    const { der } = await made();
    der[der.length - 5] = (der[der.length - 5] ?? 0) ^ 1;
    expect(await readSigningRequest(der)).toMatchObject({ ok: false, says: expect.stringContaining('signature') });
  });

  it('is refused in words where it is cut off or something else', async () => {
    const { der } = await made();
    for (const bytes of [der.subarray(0, 90), new Uint8Array(), Uint8Array.from([0x30, 3, 2, 1, 5])])
      expect(await readSigningRequest(bytes)).toMatchObject({ ok: false, says: expect.stringContaining('PKCS#10') });
  });
});

it('serial numbers are positive, long and never the same', () => {
  const serials = Array.from({ length: 200 }, freshSerialNumber);
  expect(new Set(serials).size).toBe(200);
  for (const serial of serials) expect(serial).toMatch(/^[4-7][0-9a-f]{31}$/);
});

it('what another key signed is not taken for ours', async () => {
  const [authority, stranger] = [await authorityOf('P-256'), await party('CA', 'P-256')];
  const result = readCertificate(authority.certificate);
  const key = new Uint8Array(await crypto.subtle.exportKey('spki', stranger.keys.publicKey));
  expect(result.ok && Buffer.from(result.certificate.publicKey.info).equals(Buffer.from(key))).toBe(false);
});

describe('an authority that is renewed', () => {
  const later = { notBefore: from, notAfter: Date.parse('2036-01-01'), serialNumber: '4002' };
  const renewed = async (
    today: Signer & { certificate: Uint8Array },
    keys: { publicKey: Uint8Array; privateKey: CryptoKey },
  ) =>
    read(
      await renewAuthorityCertificate(
        today.certificate,
        { ...later, publicKey: keys.publicKey },
        { ...today, privateKey: keys.privateKey },
      ),
    );
  const signedBy = async (authority: Signer): Promise<Uint8Array> =>
    issueApplicationCertificate(
      {
        ...application,
        publicKey: await exportKey('spki', (await makeKeys('P-256')).publicKey),
        serialNumber: freshSerialNumber(),
      },
      authority,
    );
  const statusUnder = async (certificate: Uint8Array, trusted: Uint8Array): Promise<string> =>
    (
      await validateCertificate({
        certificate,
        sentIssuers: [],
        trustList: { trusted: [trusted], issuers: [], crls: [] },
        at: '2026-03-01T00:00:00.000Z',
        applicationUri: application.applicationUri,
        host: null,
        policy: null,
        crlsDemanded: false,
        warnDays: 0,
      })
    ).status;

  it('with its key keeps its name, its key identifier and what it signed', async () => {
    const today = await authorityOf('P-256');
    const before = read(today.certificate);
    const after = await renewed(today, { publicKey: before.publicKey.info, privateKey: today.privateKey });
    expect(after.subject.equals(before.subject)).toBe(true);
    expect(after.thumbprint).not.toBe(before.thumbprint);
    expect(after.extensions).toEqual(before.extensions);
    expect(await statusUnder(await signedBy(today), after.der)).toBe('Good');
  });

  it('with a new key keeps its name alone: what the old one signed does not hang below it', async () => {
    const today = await authorityOf('P-256');
    const keys = await makeKeys('P-256');
    const after = await renewed(today, {
      publicKey: await exportKey('spki', keys.publicKey),
      privateKey: keys.privateKey,
    });
    expect(after.subject.equals(read(today.certificate).subject)).toBe(true);
    expect(after.extensions.subjectKeyId).not.toBe(read(today.certificate).extensions.subjectKeyId);
    expect(after.summary).toMatchObject({ isAuthority: true, pathLength: 0 });
    expect(await statusUnder(await signedBy(today), after.der)).toBe('BadCertificateChainIncomplete');
    const anew = await signedBy({ ...today, privateKey: keys.privateKey, certificate: after.der });
    expect(await statusUnder(anew, after.der)).toBe('Good');
  });
});
