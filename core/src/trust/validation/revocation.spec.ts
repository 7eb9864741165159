import { X509CrlReason } from '@peculiar/x509';
import {
  certify,
  crlNumber,
  deltaOf,
  distributionPoints,
  entryOfIssuer,
  issuingPoint,
  party,
  rawExtension,
  read,
  reasonBits,
  revoke,
  rootOf,
} from '../../testing/pki.js';
import type { CrlWish, Party, PointWish } from '../../testing/pki.js';
import { CertificateJudge } from './judge.js';
import { ReadTrustList } from './lists.js';

const at = Date.parse('2026-03-01T12:00:00Z');
const revocationDate = new Date('2026-02-01');
const leafRevoked = { serialNumber: '0c', revocationDate };
let works: Party, other: Party, app: Party;
let top: Uint8Array;
beforeAll(async () => {
  [works, other, app] = await Promise.all([party('Works CA'), party('CRL signer'), party('app')]);
  top = await rootOf(works);
});

const leafWith = (...points: readonly PointWish[]): Promise<Uint8Array> =>
  certify(app, works, { serial: '0c', ...(points.length > 0 ? { more: [distributionPoints(...points)] } : {}) });
const plainLeaf = (): Promise<Uint8Array> => leafWith();

/** What is said of a certificate whose CRLs are demanded: its status, and what stands at the two steps of revocation. */
async function judged(leaf: Uint8Array, crls: readonly Uint8Array[], issuers: readonly Uint8Array[] = []) {
  const { status, findings } = await new CertificateJudge(ReadTrustList.read({ trusted: [top], issuers, crls })).judge({
    certificate: read(leaf),
    sentIssuers: [],
    at,
    applicationUri: null,
    host: null,
    policy: null,
    crlsDemanded: true,
    warnDays: 0,
    profile: 'application',
  });
  return { status, lists: findings[9] ?? [] };
}
const statusOf = async (...args: Parameters<typeof judged>) => (await judged(...args)).status;
const crl = (wish: CrlWish = {}): Promise<Uint8Array> => revoke(works, wish);
const unknown = 'BadCertificateRevocationUnknown';

describe('CRLs for a part', () => {
  it('speak of those certificates alone that name the same distribution point', async () => {
    const [here, there] = ['http://crl.works.example/1', 'http://crl.works.example/2'];
    const [ofHere, ofThere] = await Promise.all([
      crl({ revoked: [leafRevoked], more: [issuingPoint({ uri: here })] }),
      crl({ more: [issuingPoint({ uri: there })] }),
    ]);
    expect(await statusOf(await leafWith({ uri: here }), [ofHere, ofThere])).toBe('BadCertificateRevoked');
    expect(await statusOf(await leafWith({ uri: there }), [ofHere, ofThere])).toBe('Good');
    expect(await judged(await leafWith({ uri: there }), [ofHere])).toMatchObject({
      status: unknown,
      lists: [{ refused: expect.stringContaining('another distribution point') }],
    });
    // A certificate without any is not spoken of by a list that names its place.
    expect(await statusOf(await plainLeaf(), [ofThere])).toBe(unknown);
  });

  it('are put together until all reasons are spoken of', async () => {
    const [compromised, superseded, rest] = await Promise.all(
      Object.values(reasonBits).map((reasons) => crl({ more: [issuingPoint({ reasons })] })),
    );
    const all = [compromised, superseded, rest].map((der) => der ?? new Uint8Array());
    const leaf = await plainLeaf();
    expect(await statusOf(leaf, all)).toBe('Good');
    expect(await judged(leaf, all.slice(0, 2))).toMatchObject({
      status: unknown,
      lists: [{ kind: 'crl-missing', refused: expect.stringMatching(/cACompromise.*certificateHold/) }],
    });
    const revoking = await crl({
      revoked: [{ ...leafRevoked, reason: X509CrlReason.superseded }],
      more: [issuingPoint({ reasons: reasonBits.superseded })],
    });
    expect(await statusOf(leaf, [...all.filter((der) => der !== superseded), revoking])).toBe('BadCertificateRevoked');
  });

  it('count for the reasons that the distribution point leaves to them', async () => {
    const leaf = await leafWith({ uri: 'http://crl.works.example/1', reasons: reasonBits.keyCompromise });
    const ofPoint = await crl({ more: [issuingPoint({ uri: 'http://crl.works.example/1' })] });
    expect(await statusOf(leaf, [ofPoint])).toBe(unknown);
    expect(await statusOf(leaf, [ofPoint, await crl()])).toBe('Good');
  });

  it('for applications say nothing about authorities, and those about attributes nothing at all', async () => {
    const leaf = await plainLeaf();
    expect(await statusOf(leaf, [await crl({ more: [issuingPoint({ of: 'users' })] })])).toBe('Good');
    expect(await statusOf(leaf, [await crl({ more: [issuingPoint({ of: 'authorities' })] })])).toBe(unknown);
    expect(await statusOf(leaf, [await crl({ more: [issuingPoint({ of: 'attributes' })] })])).toBe(unknown);
  });

  it('give way to a newer one that speaks of all that they speak of', async () => {
    const old = await crl({ revoked: [leafRevoked], thisUpdate: '2026-01-01', more: [issuingPoint({ of: 'users' })] });
    const whole = await crl({ thisUpdate: '2026-02-15' });
    expect(await statusOf(await plainLeaf(), [old, whole])).toBe('Good');
    const newer = await crl({
      revoked: [leafRevoked],
      thisUpdate: '2026-02-20',
      more: [issuingPoint({ reasons: reasonBits.keyCompromise })],
    });
    expect(await statusOf(await plainLeaf(), [whole, newer])).toBe('BadCertificateRevoked');
  });
});

describe('CRLs of another issuer', () => {
  const indirect = (wish: CrlWish = {}) =>
    revoke(other, { ...wish, more: [issuingPoint({ indirect: true }), ...(wish.more ?? [])] });
  const signer = () => certify(other, works, { authority: true, serial: '0d' });
  /** The signer itself is not revoked. */
  const ofAuthorities = () => crl({ more: [issuingPoint({ of: 'authorities' })] });
  const ofWorks = { ...leafRevoked, extensions: [entryOfIssuer('Works CA')] };

  it('speak of a certificate that names their issuer', async () => {
    const leaf = await leafWith({ by: 'CRL signer' });
    const ofSigner = [await signer()];
    const ownList = await ofAuthorities();
    expect(await statusOf(leaf, [await indirect({ revoked: [ofWorks] }), ownList], ofSigner)).toBe(
      'BadCertificateRevoked',
    );
    expect(await statusOf(leaf, [await indirect(), ownList], ofSigner)).toBe('Good');
    // Without the issuer named, the entry is one of the signer’s own certificates.
    expect(await statusOf(leaf, [await indirect({ revoked: [leafRevoked] }), ownList], ofSigner)).toBe('Good');
  });

  it('keep to the issuer of an entry until another one is named', async () => {
    const leaf = await leafWith({ by: 'CRL signer' });
    const first = { serialNumber: '0e', revocationDate, extensions: [entryOfIssuer('Works CA')] };
    const crls = [await indirect({ revoked: [first, leafRevoked] }), await crl()];
    expect(await statusOf(leaf, crls, [await signer()])).toBe('BadCertificateRevoked');
    const second = { ...leafRevoked, extensions: [entryOfIssuer('Lehr CA')] };
    const others = [await indirect({ revoked: [first, second] }), await ofAuthorities()];
    expect(await statusOf(leaf, others, [await signer()])).toBe('Good');
  });

  it('are refused where the certificate does not name them, where they don’t say so, and where nobody vouches', async () => {
    const [named, unnamed] = [await leafWith({ by: 'CRL signer' }), await plainLeaf()];
    const list = await indirect({ revoked: [ofWorks] });
    expect(await statusOf(unnamed, [list, await crl()], [await signer()])).toBe('Good');
    const silent = await revoke(other, { revoked: [leafRevoked] });
    expect(await statusOf(named, [silent], [await signer()])).toBe(unknown);
    const claiming = await revoke(other, { revoked: [ofWorks] });
    expect(await statusOf(named, [claiming], [await signer()])).toBe(unknown);
    const stranger = await rootOf(other);
    expect(await judged(named, [list], [stranger])).toMatchObject({
      status: unknown,
      lists: [{ refused: expect.stringContaining('not valid up to the same trust anchor') }],
    });
  });
});

describe('delta CRLs', () => {
  const base = (number: number, wish: CrlWish = {}) => crl({ ...wish, more: [crlNumber(number)] });
  const delta = (number: number, since: number, wish: CrlWish = {}) =>
    crl({ thisUpdate: '2026-02-20', ...wish, more: [crlNumber(number), deltaOf(since), ...(wish.more ?? [])] });

  it('add to their base and take away from it', async () => {
    const leaf = await plainLeaf();
    expect(await statusOf(leaf, [await base(5), await delta(6, 5, { revoked: [leafRevoked] })])).toBe(
      'BadCertificateRevoked',
    );
    const held = await base(5, { revoked: [{ ...leafRevoked, reason: X509CrlReason.certificateHold }] });
    expect(await statusOf(leaf, [held])).toBe('BadCertificateRevoked');
    const released = { ...leafRevoked, reason: X509CrlReason.removeFromCRL };
    expect(await statusOf(leaf, [held, await delta(6, 5, { revoked: [released] })])).toBe('Good');
  });

  it('of which the newest counts, and none that is older than the complete one', async () => {
    const leaf = await plainLeaf();
    const released = { ...leafRevoked, reason: X509CrlReason.removeFromCRL };
    const deltas = [await delta(6, 5, { revoked: [leafRevoked] }), await delta(7, 5, { revoked: [released] })];
    expect(await statusOf(leaf, [await base(5), ...deltas])).toBe('Good');
    expect(await statusOf(leaf, [await base(8), ...deltas])).toBe('Good');
    expect(await statusOf(leaf, [await base(5), await delta(4, 3, { revoked: [leafRevoked] })])).toBe('Good');
  });

  it('keep their base current', async () => {
    const leaf = await plainLeaf();
    const stale = await base(5, { nextUpdate: '2026-02-25' });
    expect(await judged(leaf, [stale])).toMatchObject({ lists: [{ kind: 'crl-stale' }] });
    expect(await statusOf(leaf, [stale, await delta(6, 5)])).toBe('Good');
    // An outdated delta makes a complete one that is current no worse than it is alone.
    const old = await delta(6, 5, { nextUpdate: '2026-02-25' });
    expect(await statusOf(leaf, [await base(5), old])).toBe('Good');
    expect(await judged(leaf, [stale, old])).toMatchObject({ lists: [{ kind: 'crl-stale' }] });
  });

  it('count with the base of their own scope, beside a complete one of another', async () => {
    const ofUsers = [issuingPoint({ of: 'users' })];
    const old = await crl({ thisUpdate: '2026-01-10', more: [crlNumber(3), ...ofUsers] });
    const changed = await delta(9, 3, { revoked: [leafRevoked], more: ofUsers });
    expect(await statusOf(await plainLeaf(), [old, await base(8), changed])).toBe('BadCertificateRevoked');
  });

  it('without their base, or with another scope, are not skipped', async () => {
    const leaf = await plainLeaf();
    const told = { status: unknown, lists: [{ refused: expect.stringContaining('CRL number 7') }] };
    expect(await judged(leaf, [await delta(8, 7)])).toMatchObject(told);
    expect(await judged(leaf, [await base(5), await delta(8, 7)])).toMatchObject(told);
    const ofUsers = await delta(6, 5, { more: [issuingPoint({ of: 'users' })] });
    expect(await statusOf(leaf, [await base(5), ofUsers])).toBe(unknown);
  });

  it('count only where the same issuer signed them', async () => {
    const forged = await revoke(
      { ...other, name: 'Works CA' },
      { revoked: [leafRevoked], more: [crlNumber(6), deltaOf(5)] },
    );
    expect(await statusOf(await plainLeaf(), [await base(5), forged])).toBe('Good');
  });
});

describe('what can’t be used', () => {
  it('is not skipped where the issuer signed it later than what can be used', async () => {
    const unusable = (thisUpdate: string) => crl({ thisUpdate, more: [rawExtension('1.2.3.4', true, 5, 0)] });
    const leaf = await plainLeaf();
    expect(await judged(leaf, [await crl(), await unusable('2026-02-20')])).toMatchObject({
      status: unknown,
      lists: [{ kind: 'crl-missing', refused: expect.stringContaining('critical extension') }],
    });
    expect(await statusOf(leaf, [await crl(), await unusable('2026-01-20')])).toBe('Good');
  });

  it('is told where it can’t be read, and settles nothing alone', async () => {
    const leaf = await plainLeaf();
    const broken = (await crl()).subarray(0, 50);
    expect(await judged(leaf, [await crl(), broken])).toMatchObject({
      status: 'Good',
      lists: [{ kind: 'crl-unreadable', status: 'Good', count: 1, says: expect.stringContaining('not a CRL') }],
    });
    expect((await judged(leaf, [broken, broken])).lists).toMatchObject([
      { kind: 'crl-missing' },
      { kind: 'crl-unreadable', status: unknown, count: 2 },
    ]);
  });
});
