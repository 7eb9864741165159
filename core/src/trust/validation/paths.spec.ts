import { certify, party, rawExtension, read, revoke, rootOf } from '../../testing/pki.js';
import type { Party, Wish } from '../../testing/pki.js';
import { CertificateJudge } from './judge.js';
import type { Question } from './judge.js';
import { ReadTrustList } from './lists.js';
import { sayProblem } from './problem.js';
import type { CertificateProblem } from './problem.js';

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

  it('ends where a signature was made with an outdated algorithm, and says so', async () => {
    const works = await party('Works', 'RSA');
    const [top, leaf] = await Promise.all([rootOf(works), certify(app, works)]);
    const [sha256, md5] = ['2a864886f70d01010b', '2a864886f70d010104'];
    const old = Uint8Array.from(Buffer.from(Buffer.from(leaf).toString('hex').replaceAll(sha256, md5), 'hex'));
    const { findings } = await judge(old, { trusted: [top] });
    expect(findings[2]).toMatchObject([{ kind: 'signature-wrong', uncheckable: 'MD5' }]);
    expect(sayProblem(findings[2]?.[0] as CertificateProblem)).toContain('made with MD5, and is not checked');
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

  it('is bounded for hosts that stand in the common name alone, too', async () => {
    const tree = [0x30, 15, 0x82, 13, ...Buffer.from('works.example')];
    const within = { more: [rawExtension('2.5.29.30', true, 0x30, tree.length + 2, 0xa0, tree.length, ...tree)] };
    expect((await chainOf(within, { subjectName: 'CN=furnace.works.example' })).status).toBe('Good');
    expect((await chainOf(within, { subjectName: 'CN=Furnace server 2.0' })).status).toBe('Good');
    expect((await chainOf(within, { subjectName: 'CN=furnace.elsewhere.example' })).status).toBe(
      'BadCertificateIssuerUseNotAllowed',
    );
  });

  it('is bounded for a name that can’t be compared with a constraint on its kind', async () => {
    const host = [...Buffer.from('other.example')];
    const tree = [0x30, host.length + 2, 0x81, host.length, ...host];
    const without = { more: [rawExtension('2.5.29.30', true, 0x30, tree.length + 2, 0xa1, tree.length, ...tree)] };
    expect((await chainOf(without, { subjectName: 'CN=furnace, E=desk@works.example' })).status).toBe('Good');
    for (const mailbox of ['nobody', '@works.example', 'desk@'])
      expect((await chainOf(without, { subjectName: `CN=furnace, E=${mailbox}` })).status).toBe(
        'BadCertificateIssuerUseNotAllowed',
      );
  });

  it('is bounded without endless work where names and constraints are made to cause it, and without any where nobody trusts', async () => {
    const long = (tag: number, content: readonly number[]): number[] => [
      tag,
      0x82,
      content.length >> 8,
      content.length & 0xff,
      ...content,
    ];
    const trees = Array.from({ length: 600 }, (_, index) => {
      const host = `${index}.example`;
      return [0x30, host.length + 2, 0x82, host.length, ...Buffer.from(host)];
    }).flat();
    const more = [rawExtension('2.5.29.30', true, ...long(0x30, long(0xa1, trees)))];
    const [top, mid, leaf] = await Promise.all([
      rootOf(root),
      authority(middle, root, { more }),
      certify(app, middle, { dns: Array.from({ length: 600 }, (_, index) => `${index}.works.example`) }),
    ]);
    const trusted = await judge(leaf, { trusted: [top], issuers: [mid] });
    expect(trusted.status).toBe('BadCertificateIssuerUseNotAllowed');
    expect(trusted.findings[8]).toMatchObject([{ says: expect.stringContaining('more than 200,000 comparisons') }]);
    const distrusted = await judge(leaf, { issuers: [top, mid] });
    expect([distrusted.status, distrusted.findings[8]]).toEqual(['BadCertificateUntrusted', []]);
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

  it.each([
    ['when the key may sign', '2.5.29.16', [0x30, 0]],
    ['statements about qualified certificates', '1.3.6.1.5.5.7.1.3', [0x30, 0]],
    ['what TLS demands', '1.3.6.1.5.5.7.1.24', [0x30, 3, 2, 1, 5]],
    ['where to find CRLs', '2.5.29.31', [0x30, 2, 0x30, 0]],
  ])('goes on past a critical extension that needs no processing: %s', async (_, oid, bytes) => {
    expect((await chainOf({ more: [rawExtension(oid, true, ...bytes)] })).status).toBe('Good');
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
      () =>
        revoke(middle, { more: [rawExtension('2.5.29.27', true, 2, 1, 1), rawExtension('2.5.29.20', false, 2, 1, 2)] }),
      /delta CRL/,
    ],
    [
      'that says only what changed and has no number',
      () => revoke(middle, { more: [rawExtension('2.5.29.27', true, 2, 1, 1)] }),
      /no number of its own/,
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

  it.each<[string, (impostor: Party) => Promise<{ trusted?: Uint8Array; issuers: Uint8Array[]; crls?: Uint8Array[] }>]>(
    [
      ['that signed itself', async (impostor) => ({ issuers: [await rootOf(impostor)] })],
      ['below another anchor', async (impostor) => ({ issuers: [await authority(impostor, otherRoot)] })],
      ['that has expired', async (impostor) => ({ issuers: [await authority(impostor, root, { to: '2026-02-15' })] })],
      ['that may sign no CRLs', async (impostor) => ({ issuers: [await authority(impostor, root, { usages: 4 })] })],
      [
        'that was revoked itself',
        async (impostor) => ({
          issuers: [await authority(impostor, root, { serial: '0d' })],
          crls: [await revoke(root, { revoked: [{ serialNumber: '0d', ...revoked }] })],
        }),
      ],
    ],
  )('is not hidden by a newer CRL of a namesake %s', async (_, made) => {
    const { leaf, lists } = await chain();
    const impostor = { ...(await party('Middle')), name: 'Middle' };
    const { issuers, crls: more = [] } = await made(impostor);
    const [real, impostors] = await Promise.all([
      revoke(middle, { revoked: [{ serialNumber: '0c', ...revoked }] }),
      revoke(impostor, { thisUpdate: '2026-02-20' }),
    ]);
    const trusted = [...lists.trusted, await rootOf(otherRoot)];
    const all = { trusted, issuers: [...lists.issuers, ...issuers] };
    expect(await statusOf(leaf, { ...all, crls: [real, impostors, ...more] })).toBe('BadCertificateRevoked');
    const alone = await judge(leaf, { ...all, crls: [impostors, ...more] });
    expect(alone.status).toBe('BadCertificateRevocationUnknown');
    expect(alone.findings[9]).toMatchObject([{ refused: expect.stringMatching(/same trust anchor|does not allow/) }]);
  });

  it('is not asked of the CRL of another authority that is trusted itself and has the same name', async () => {
    const leaf = await certify(app, root, { serial: '0c' });
    const namesake = { ...(await party('Root')), name: 'Root' };
    const trusted = await Promise.all([rootOf(root), rootOf(namesake)]);
    const crls = [await revoke(namesake)];
    expect(await statusOf(leaf, { trusted, crls })).toBe('Good');
    expect(await statusOf(leaf, { trusted, crls }, { crlsDemanded: true })).toBe('BadCertificateRevocationUnknown');
    const own = await revoke(root, { revoked: [{ serialNumber: '0c', ...revoked }], thisUpdate: '2026-01-15' });
    expect(await statusOf(leaf, { trusted, crls: [own, ...crls] })).toBe('BadCertificateRevoked');
  });
});
