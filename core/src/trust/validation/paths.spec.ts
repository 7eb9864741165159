import { certify, party, rawExtension, read, revoke, rootOf } from '../../testing/pki.js';
import type { Party, Wish } from '../../testing/pki.js';
import { CertificateJudge } from './judge.js';
import type { Question } from './judge.js';
import { ReadTrustList } from './lists.js';

const at = Date.parse('2026-03-01T12:00:00Z');
let root: Party, otherRoot: Party, middle: Party, low: Party, app: Party;
beforeAll(async () => {
  [root, otherRoot, middle, low, app] = await Promise.all([
    party('Root'),
    party('Other root'),
    party('Middle'),
    party('Low'),
    party('app'),
  ]);
});

const authority = (subject: Party, issuer: Party, wish: Wish = {}) =>
  certify(subject, issuer, { authority: true, ...wish });

interface Lists {
  readonly trusted?: readonly Uint8Array[];
  readonly issuers?: readonly Uint8Array[];
  readonly crls?: readonly Uint8Array[];
}
async function judge(leaf: Uint8Array, lists: Lists, differs: Partial<Question> = {}) {
  const list = ReadTrustList.read({ trusted: [], issuers: [], crls: [], ...lists });
  return new CertificateJudge(list).judge({
    certificate: read(leaf),
    sentIssuers: [],
    at,
    applicationUri: null,
    host: null,
    policy: null,
    crlsDemanded: false,
    warnDays: 0,
    profile: 'application',
    ...differs,
  });
}
const statusOf = async (...args: Parameters<typeof judge>) => (await judge(...args)).status;
const pathOf = async (...args: Parameters<typeof judge>) =>
  (await judge(...args)).path.map(({ subject }) => subject.text.replace(', O=Works', ''));

describe('a way to an anchor', () => {
  it('is found over several issuers, whether they lie in the lists or were sent along', async () => {
    const [top, mid, leaf] = await Promise.all([rootOf(root), authority(middle, root), certify(app, middle)]);
    expect(await pathOf(leaf, { trusted: [top], issuers: [mid] })).toEqual(['CN=app', 'CN=Middle', 'CN=Root']);
    expect(await statusOf(leaf, { trusted: [top] }, { sentIssuers: [read(mid)] })).toBe('Good');
    expect(await statusOf(leaf, { trusted: [top] })).toBe('BadCertificateChainIncomplete');
  });

  it('is taken around an issuer that has expired where it was renewed with the same name and key', async () => {
    const [top, old, renewed, leaf] = await Promise.all([
      rootOf(root),
      authority(middle, root, { to: '2026-01-01' }),
      authority(middle, root),
      certify(app, middle),
    ]);
    expect(await statusOf(leaf, { trusted: [top], issuers: [old] })).toBe('BadCertificateIssuerTimeInvalid');
    expect(await statusOf(leaf, { trusted: [top], issuers: [old, renewed] })).toBe('Good');
  });

  it('is taken to the issuer whose key signed, of two with the same name', async () => {
    const renewed = { ...(await party('Root')), name: 'Root' };
    const [oldTop, newTop, leaf] = await Promise.all([rootOf(root), rootOf(renewed), certify(app, renewed)]);
    expect(await statusOf(leaf, { trusted: [oldTop, newTop] })).toBe('Good');
    expect((await judge(leaf, { trusted: [oldTop] })).findings[1]).toMatchObject([
      { kind: 'chain-incomplete', missingKeyId: read(newTop).extensions.subjectKeyId },
    ]);
  });

  it('is taken over a cross-signed authority to the root that is trusted', async () => {
    const [top, otherTop, own, cross, leaf] = await Promise.all([
      rootOf(root),
      rootOf(otherRoot),
      authority(middle, root),
      authority(middle, otherRoot),
      certify(app, middle),
    ]);
    const issuers = [own, cross, top];
    expect(await pathOf(leaf, { trusted: [otherTop], issuers })).toEqual(['CN=app', 'CN=Middle', 'CN=Other root']);
    expect(await statusOf(leaf, { issuers: [...issuers, otherTop] })).toBe('BadCertificateUntrusted');
  });

  it('ends at authorities that certify one another in a ring', async () => {
    const [one, other, leaf] = await Promise.all([
      authority(middle, low),
      authority(low, middle),
      certify(app, middle),
    ]);
    expect(await statusOf(leaf, { issuers: [one, other] })).toBe('BadCertificateChainIncomplete');
  });

  it('is given up in time among very many issuers of one name', async () => {
    const same = await Promise.all(
      Array.from({ length: 12 }, () => authority(middle, middle, { issuerName: 'CN=Middle, O=Works' })),
    );
    const leaf = await certify(app, low, { issuerName: 'CN=Middle, O=Works', keyIds: false });
    expect(await statusOf(leaf, { issuers: same })).toBe('BadCertificateInvalid');
  });
});

describe('trust', () => {
  it('comes from an authority in the trusted list, and in an application’s eyes only with the whole chain', async () => {
    const [top, mid, leaf] = await Promise.all([rootOf(root), authority(middle, root), certify(app, middle)]);
    expect(await statusOf(leaf, { trusted: [mid], issuers: [top] })).toBe('Good');
    expect(await statusOf(leaf, { trusted: [mid] })).toBe('BadCertificateChainIncomplete');
    expect(await statusOf(leaf, { trusted: [mid] }, { profile: 'chain' })).toBe('Good');
  });

  it('does not come from a trusted certificate that is no authority', async () => {
    const [alone, below] = await Promise.all([certify(app, app), certify(low, app)]);
    expect(await statusOf(below, { trusted: [alone] })).toBe('BadCertificateUntrusted');
    expect(await statusOf(below, { trusted: [alone] }, { profile: 'chain' })).not.toBe('Good');
    expect(await statusOf(alone, { trusted: [alone] })).toBe('Good');
  });
});

describe('what issuers may do', () => {
  const chainOf = async (wish: Wish, leafWish: Wish = {}) => {
    const [top, mid, bottom, leaf] = await Promise.all([
      rootOf(root),
      authority(middle, root, wish),
      authority(low, middle),
      certify(app, low, leafWish),
    ]);
    return judge(leaf, { trusted: [top], issuers: [mid, bottom] });
  };

  it('is bounded by the path length', async () => {
    expect((await chainOf({ pathLength: 1 })).status).toBe('Good');
    expect((await chainOf({ pathLength: 0 })).status).toBe('BadCertificateIssuerUseNotAllowed');
  });

  it('is bounded by name constraints, to the letter of each kind of name', async () => {
    const dns = (value: string): number[] => [0x30, value.length + 2, 0x82, value.length, ...Buffer.from(value)];
    const constrained = (list: 0xa0 | 0xa1, host: string): Wish => {
      const tree = dns(host);
      return { more: [rawExtension('2.5.29.30', true, 0x30, tree.length + 2, list, tree.length, ...tree)] };
    };
    expect((await chainOf(constrained(0xa0, 'works.example'))).status).toBe('Good');
    expect((await chainOf(constrained(0xa0, 'other.example'))).status).toBe('BadCertificateIssuerUseNotAllowed');
    expect((await chainOf(constrained(0xa1, 'furnace.works.example'))).status).toBe(
      'BadCertificateIssuerUseNotAllowed',
    );
    expect((await chainOf(constrained(0xa1, 'urnace.works.example'))).status).toBe('Good');
  });

  it('is bounded by a policy that they demand', async () => {
    const demand = rawExtension('2.5.29.36', true, 0x30, 3, 0x80, 1, 0);
    const policies = rawExtension('2.5.29.32', false, 0x30, 6, 0x30, 4, 0x06, 2, 0x2a, 0x03);
    const [top, mid, leaf, agreeing] = await Promise.all([
      rootOf(root),
      authority(middle, root, { more: [demand, policies] }),
      certify(app, middle),
      certify(app, middle, { more: [policies] }),
    ]);
    expect(await statusOf(leaf, { trusted: [top], issuers: [mid] })).toBe('BadCertificateIssuerUseNotAllowed');
    expect(await statusOf(agreeing, { trusted: [top], issuers: [mid] })).toBe('Good');
  });

  it('ends at a critical extension that nobody knows', async () => {
    const odd = rawExtension('1.3.6.1.4.1.99999.7', true, 5, 0);
    expect((await chainOf({ more: [odd] })).status).toBe('BadCertificateInvalid');
  });
});

describe('revocation', () => {
  const revoked = { revocationDate: new Date('2026-02-01') };
  const chain = async () => {
    const [top, mid, leaf] = await Promise.all([
      rootOf(root),
      authority(middle, root, { serial: '0b' }),
      certify(app, middle, { serial: '0c' }),
    ]);
    return { top, mid, leaf, lists: { trusted: [top], issuers: [mid] } };
  };

  it('needs a CRL of every issuer where CRLs are demanded', async () => {
    const { leaf, lists } = await chain();
    const [ofRoot, ofMiddle] = await Promise.all([revoke(root), revoke(middle)]);
    const demanded = { crlsDemanded: true };
    expect(await statusOf(leaf, lists, demanded)).toBe('BadCertificateRevocationUnknown');
    expect(await statusOf(leaf, { ...lists, crls: [ofMiddle] }, demanded)).toBe(
      'BadCertificateIssuerRevocationUnknown',
    );
    expect(await statusOf(leaf, { ...lists, crls: [ofMiddle, ofRoot] }, demanded)).toBe('Good');
  });

  it('tells a revoked certificate from a revoked issuer', async () => {
    const { leaf, lists } = await chain();
    const ofMiddle = await revoke(middle, { revoked: [{ serialNumber: '0c', ...revoked }] });
    const ofRoot = await revoke(root, { revoked: [{ serialNumber: '0b', ...revoked }] });
    expect(await statusOf(leaf, { ...lists, crls: [ofMiddle] })).toBe('BadCertificateRevoked');
    expect(await statusOf(leaf, { ...lists, crls: [ofRoot] })).toBe('BadCertificateIssuerRevoked');
  });

  it.each<[string, () => Promise<Uint8Array>, RegExp]>([
    ['signed by somebody else', () => revoke({ ...otherRoot, name: 'Middle' }), /not made with the issuer/],
    [
      'that says only what changed',
      () => revoke(middle, { more: [rawExtension('2.5.29.27', true, 2, 1, 1)] }),
      /delta CRL/,
    ],
    [
      'that speaks for others too',
      () => revoke(middle, { more: [rawExtension('2.5.29.28', true, 0x30, 3, 0x84, 1, 0xff)] }),
      /indirect/,
    ],
    [
      'that speaks of authorities only',
      () => revoke(middle, { more: [rawExtension('2.5.29.28', true, 0x30, 3, 0x82, 1, 0xff)] }),
      /authorities only/,
    ],
    [
      'with a critical extension that nobody knows',
      () => revoke(middle, { more: [rawExtension('1.2.3.4', true, 5, 0)] }),
      /critical/,
    ],
    ['from the future', () => revoke(middle, { thisUpdate: '2026-04-01' }), /later than the time in question/],
  ])('is not told by a CRL %s, and says why', async (_, make, why) => {
    const { leaf, lists } = await chain();
    const { status, findings } = await judge(leaf, { ...lists, crls: [await make()] });
    expect(status).toBe('BadCertificateRevocationUnknown');
    expect(findings[9]).toMatchObject([{ kind: 'crl-missing', refused: expect.stringMatching(why) }]);
  });

  it('is told by a CRL of a renewed issuer of the same name', async () => {
    const { leaf, lists } = await chain();
    const renewed = { ...(await party('Middle')), name: 'Middle' };
    const renewedMiddle = await authority(renewed, root);
    const crl = await revoke(renewed, { revoked: [{ serialNumber: '0c', ...revoked }] });
    const issuers = [...lists.issuers, renewedMiddle];
    expect(await statusOf(leaf, { ...lists, issuers, crls: [crl] })).toBe('BadCertificateRevoked');
  });
});
