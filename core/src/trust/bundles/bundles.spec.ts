import fc from 'fast-check';
import { strToU8, zipSync } from 'fflate';
import { works } from '../../testing/plant-trust.js';
import type { Works } from '../../testing/plant-trust.js';
import { writePem } from '../pem.js';
import { emptyFolder, readPkiFolder, unzip, writePkiFolder } from './index.js';
import type { PkiFolder } from './index.js';

let site: Works;
let folder: PkiFolder;
beforeAll(async () => {
  site = await works();
  const [own, stranger, crl] = [await site.own('furnace'), await site.own('stranger'), await site.crl()];
  folder = {
    own: [own.der],
    trusted: [site.root.der],
    issuers: [],
    trustedCrls: [crl.der],
    issuerCrls: [],
    rejected: [stranger.der],
  };
});

describe('a PKI folder as a zip', () => {
  it('comes back as it went, empty lists among it', () => {
    const read = readPkiFolder(writePkiFolder(folder, 'furnace', 'Read me.'));
    expect(read).toMatchObject({ ok: true, folder, passedOver: [{ path: 'furnace/read-me.txt' }] });
  });

  it('is known by its last folders, whatever stands before them, in PEM as well', () => {
    const zip = zipSync({
      'C/ProgramData/pki/Rejected/a.pem': strToU8(writePem('CERTIFICATE', site.root.der)),
      'C/ProgramData/pki/issuers/certs/b.der': site.root.der,
    });
    expect(readPkiFolder(zip)).toMatchObject({
      ok: true,
      folder: { ...emptyFolder, issuers: [site.root.der], rejected: [site.root.der] },
      passedOver: [],
    });
  });

  it('names the files that it skips, and why', () => {
    const zip = zipSync({
      'trusted/certs/a.der': strToU8('no certificate'),
      'trusted/crl/b.crl': site.root.der,
      'issuers/certs/c.der': site.root.der,
    });
    expect(readPkiFolder(zip)).toMatchObject({
      ok: true,
      folder: { ...emptyFolder, issuers: [site.root.der] },
      found: new Set(['issuers']),
      passedOver: [{ says: 'It is no certificate.' }, { says: 'It is no CRL.' }],
    });
  });

  it('in which nothing can be read says so, and empties no list', () => {
    const zip = zipSync({
      'trusted/certs/a.der': strToU8('no certificate'),
      'trusted/crl/b.crl': strToU8('nor a CRL'),
    });
    expect(readPkiFolder(zip)).toEqual({
      ok: false,
      says: 'Nothing in the lists of this zip can be read as a certificate or CRL.',
    });
  });

  it('of which all lists are empty says that they are empty', () => {
    const read = readPkiFolder(writePkiFolder(emptyFolder, 'furnace', 'Read me.'));
    expect(read.ok && [...read.found].sort()).toEqual([
      'issuerCrls',
      'issuers',
      'own',
      'rejected',
      'trusted',
      'trustedCrls',
    ]);
  });

  it('without any of the folders is none', () => {
    expect(readPkiFolder(zipSync({ 'letters/a.txt': strToU8('x') }))).toMatchObject({
      ok: false,
      says: expect.stringContaining('Annex F'),
    });
  });
});

describe('unpacking', () => {
  it.each(['../evil.der', 'trusted/../../evil.der', '/etc/passwd', 'C:/evil', 'trusted\\certs\\a.der'])(
    'refuses a path that leads out: %s',
    (path) => {
      expect(unzip(zipSync({ [path]: strToU8('x') }))).toMatchObject({
        ok: false,
        says: expect.stringContaining('leads out'),
      });
    },
  );

  it('refuses what unpacks to far more than it should, before the memory is full', () => {
    const zeros = zipSync({ 'trusted/certs/a.der': new Uint8Array(60_000_000) }, { level: 9 });
    expect(zeros.length).toBeLessThan(100_000);
    expect(unzip(zeros)).toMatchObject({ ok: false, says: expect.stringContaining('more than belongs') });
  });

  it('refuses too many files', () => {
    const many = Object.fromEntries(Array.from({ length: 30 }, (_, index) => [`a/${index}`, strToU8('x')]));
    const limits = { mostFiles: 20, mostBytes: 1000, mostBytesPerFile: 1000 };
    expect(unzip(zipSync(many), limits)).toMatchObject({ ok: false, says: expect.stringContaining('more than 20') });
  });

  it('never throws at what is cut off or broken, and says so', () => {
    const zip = writePkiFolder(folder, 'furnace', 'Read me.');
    fc.assert(
      fc.property(fc.nat(zip.length - 1), fc.integer({ min: 1, max: 255 }), (at, change) => {
        const cut = unzip(zip.subarray(0, at));
        expect(cut.ok || cut.says.length > 10).toBe(true);
        const broken = Uint8Array.from(zip);
        broken[at] = (broken[at] ?? 0) ^ change;
        const read = readPkiFolder(broken);
        expect(read.ok || read.says.length > 10).toBe(true);
      }),
      { numRuns: 400 },
    );
    expect(unzip(strToU8('not a zip'))).toMatchObject({ ok: false, says: 'This is not a zip file.' });
  });
});
