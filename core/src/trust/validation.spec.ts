import {
  X509CertificateGenerator,
  BasicConstraintsExtension,
  ExtendedKeyUsageExtension,
  KeyUsageFlags,
  KeyUsagesExtension,
  SubjectAlternativeNameExtension,
  X509CrlGenerator,
} from '@peculiar/x509';
import { securityPolicies } from '../ua/security-policies.js';
import { readCertificate } from './certificate.js';
import { validateCertificate } from './validation.js';
import type { ValidationRequest } from './validation.js';

const signing = {
  name: 'RSASSA-PKCS1-v1_5',
  hash: 'SHA-256',
  publicExponent: new Uint8Array([1, 0, 1]),
  modulusLength: 2048,
};
const at = '2026-03-01T12:00:00.000Z';
const all =
  KeyUsageFlags.digitalSignature |
  KeyUsageFlags.nonRepudiation |
  KeyUsageFlags.keyEncipherment |
  KeyUsageFlags.dataEncipherment;
const uri = 'urn:works.example:furnace';
type Keys = CryptoKeyPair;
const makeKeys = () => crypto.subtle.generateKey(signing, true, ['sign', 'verify']) as Promise<Keys>;
const bytes = (value: { rawData: ArrayBuffer }) => new Uint8Array(value.rawData);
const validity = { notBefore: new Date('2025-01-01'), notAfter: new Date('2030-01-01') };

interface Made {
  readonly rootKeys: Keys;
  readonly leafKeys: Keys;
  readonly root: Uint8Array;
  readonly leaf: Uint8Array;
  readonly alone: Uint8Array;
}
let made: Made;

const leafExtensions = (usage = all, name = uri) => [
  new BasicConstraintsExtension(false, undefined, true),
  new KeyUsagesExtension(usage, true),
  new ExtendedKeyUsageExtension(['1.3.6.1.5.5.7.3.1']),
  new SubjectAlternativeNameExtension([
    { type: 'url', value: name },
    { type: 'dns', value: 'furnace.works.example' },
    { type: 'ip', value: '10.0.0.1' },
  ]),
];

const issue = (
  more: {
    usage?: number;
    uri?: string;
    from?: Date;
    to?: Date;
    issuer?: string;
    subject?: string;
    signingKey?: CryptoKey;
  } = {},
) =>
  X509CertificateGenerator.create({
    serialNumber: '1234',
    subject: more.subject ?? 'CN=Furnace server',
    issuer: more.issuer ?? 'CN=Works CA',
    notBefore: more.from ?? validity.notBefore,
    notAfter: more.to ?? validity.notAfter,
    publicKey: made.leafKeys.publicKey,
    signingKey: more.signingKey ?? made.rootKeys.privateKey,
    signingAlgorithm: signing,
    extensions: leafExtensions(more.usage, more.uri),
  }).then(bytes);

beforeAll(async () => {
  const [rootKeys, leafKeys] = await Promise.all([makeKeys(), makeKeys()]);
  const root = bytes(
    await X509CertificateGenerator.createSelfSigned({
      serialNumber: '01',
      name: 'CN=Works CA',
      ...validity,
      keys: rootKeys,
      signingAlgorithm: signing,
      extensions: [
        new BasicConstraintsExtension(true, 1, true),
        new KeyUsagesExtension(KeyUsageFlags.keyCertSign | KeyUsageFlags.cRLSign, true),
      ],
    }),
  );
  const alone = bytes(
    await X509CertificateGenerator.createSelfSigned({
      serialNumber: '02',
      name: 'CN=Furnace server',
      ...validity,
      keys: leafKeys,
      signingAlgorithm: signing,
      extensions: leafExtensions(),
    }),
  );
  made = { rootKeys, leafKeys, root, alone, leaf: new Uint8Array() };
  made = { ...made, leaf: await issue() };
});

const validate = (differs: Partial<ValidationRequest> = {}) =>
  validateCertificate({
    certificate: made.leaf,
    sentIssuers: [],
    trustList: { trusted: [made.root], issuers: [], crls: [] },
    at,
    applicationUri: uri,
    host: 'furnace.works.example',
    policy: securityPolicies.Basic256Sha256,
    crlsDemanded: false,
    warnDays: 60,
    ...differs,
  });
const kindsOf = async (differs: Partial<ValidationRequest>) =>
  (await validate(differs)).problems.map((problem) => problem.kind);

describe('the eleven steps', () => {
  it('all pass for a certificate below a trusted authority', async () => {
    const { status, steps, path } = await validate();
    expect({ status, count: steps.length, path: path.length }).toEqual({ status: 'Good', count: 11, path: 2 });
  });

  it('all pass for a self-signed certificate that is trusted itself', async () => {
    expect(
      await validate({ certificate: made.alone, trustList: { trusted: [made.alone], issuers: [], crls: [] } }),
    ).toMatchObject({ status: 'Good' });
  });

  it('give no trust to what hangs below a mere issuer, and say that it is in the wrong list', async () => {
    expect(await kindsOf({ trustList: { trusted: [], issuers: [made.root], crls: [] } })).toEqual([
      'wrong-list',
      'not-trusted',
    ]);
  });

  it('name a missing issuer', async () => {
    expect(await validate({ trustList: { trusted: [], issuers: [], crls: [] } })).toMatchObject({
      status: 'BadCertificateChainIncomplete',
    });
  });

  it('trust a leaf whose issuer is only sent along', async () => {
    expect(
      await validate({ sentIssuers: [made.root], trustList: { trusted: [made.leaf], issuers: [], crls: [] } }),
    ).toMatchObject({ status: 'Good' });
  });

  it('find a signature that was not made by the issuer named', async () => {
    const forged = await issue({ signingKey: made.leafKeys.privateKey });
    expect(await kindsOf({ certificate: forged })).toContain('signature-wrong');
  });

  it('find a certificate that has expired, is not valid yet, or soon will not be', async () => {
    const [expired, early, soon] = await Promise.all([
      issue({ to: new Date('2026-02-01') }),
      issue({ from: new Date('2026-04-01') }),
      issue({ to: new Date('2026-03-11') }),
    ]);
    expect(await kindsOf({ certificate: expired })).toEqual(['expired']);
    expect(await kindsOf({ certificate: early })).toEqual(['not-yet-valid']);
    expect(await validate({ certificate: soon })).toMatchObject({
      status: 'Good',
      problems: [{ kind: 'expires-soon', days: 9 }],
    });
  });

  it('find an issuer that has expired', async () => {
    expect(
      await kindsOf({ at: '2030-06-01T00:00:00.000Z', certificate: await issue({ to: new Date('2031-01-01') }) }),
    ).toContain('issuer-expired');
  });

  it('compare the host by name and by address', async () => {
    expect(await validate({ host: '10.0.0.1' })).toMatchObject({ status: 'Good' });
    expect(await validate({ host: 'FURNACE.works.example' })).toMatchObject({ status: 'Good' });
    expect(await validate({ host: 'lehr.works.example' })).toMatchObject({ status: 'BadCertificateHostNameInvalid' });
    expect(await validate({ host: null })).toMatchObject({ status: 'Good' });
  });

  it('compare the application URI to the letter', async () => {
    expect(await validate({ certificate: await issue({ uri: `${uri}/` }) })).toMatchObject({
      status: 'BadCertificateUriInvalid',
    });
  });

  it('look at key usage, and at who may sign', async () => {
    expect(await validate({ certificate: await issue({ usage: KeyUsageFlags.digitalSignature }) })).toMatchObject({
      status: 'BadCertificateUseNotAllowed',
    });
    const below = await issue({
      subject: 'CN=Below',
      issuer: 'CN=Furnace server',
      signingKey: made.leafKeys.privateKey,
    });
    const lists = { trusted: [made.alone], issuers: [], crls: [] };
    expect(await validate({ certificate: below, trustList: lists })).toMatchObject({
      status: 'BadCertificateUntrusted',
      problems: [{ kind: 'not-trusted' }, { kind: 'usage-wrong', ofIssuer: true }],
    });
  });

  it('hold key length and hash against the policy', async () => {
    const strict = { ...securityPolicies.Basic256Sha256, key: { kind: 'RSA' as const, least: 3072, most: 4096 } };
    expect(await validate({ policy: strict })).toMatchObject({ status: 'BadCertificatePolicyCheckFailed' });
    expect(await validate({ policy: null })).toMatchObject({ status: 'Good' });
  });

  it('demand a CRL only where one is demanded, and read it', async () => {
    const crl = (to: string, revoked: string[]) =>
      X509CrlGenerator.create({
        issuer: 'CN=Works CA',
        thisUpdate: new Date('2026-02-01'),
        nextUpdate: new Date(to),
        signingAlgorithm: signing,
        signingKey: made.rootKeys.privateKey,
        entries: revoked.map((serialNumber) => ({ serialNumber, revocationDate: new Date('2026-02-01') })),
      }).then(bytes);
    const withCrl = async (to: string, revoked: string[]) => ({
      crlsDemanded: true,
      trustList: { trusted: [made.root], issuers: [], crls: [await crl(to, revoked)] },
    });
    expect(await kindsOf({ crlsDemanded: true })).toEqual(['crl-missing']);
    expect(await kindsOf(await withCrl('2026-06-01', []))).toEqual([]);
    expect(await kindsOf(await withCrl('2026-02-20', []))).toEqual(['crl-stale']);
    expect(await validate(await withCrl('2026-06-01', ['1234']))).toMatchObject({ status: 'BadCertificateRevoked' });
  });

  it('stop at a certificate that can’t be read', async () => {
    const { status, steps } = await validate({ certificate: made.leaf.subarray(0, 100) });
    expect(status).toBe('BadCertificateInvalid');
    expect(steps.slice(1).every((step) => step.result === 'not reached')).toBe(true);
  });
});

describe('a garbage certificate', () => {
  it.each([
    ['nothing', () => new Uint8Array(), /empty/],
    ['text', () => new TextEncoder().encode('hello'), /not DER/],
    ['a cut-off certificate', () => made.leaf.subarray(0, 200), /cut off/],
    ['a certificate with bytes behind it', () => Uint8Array.from([...made.leaf, 0, 1]), /2 bytes follow its end/],
    ['another structure', () => Uint8Array.from([0x30, 0x03, 0x02, 0x01, 0x05]), /not an X.509/],
  ])('%s is refused with a sentence', async (_, make, says) => {
    const read = readCertificate(make());
    expect(read.ok).toBe(false);
    if (!read.ok) expect(read.says).toMatch(says);
  });
});
