import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { emptyFolder, writePkiFolder } from '@loyal-hinge/core/bundles';
import { listsIn } from './by-hand.js';
import { TrustStore } from './trust-store.js';
import { derIn, makeApplication, makeAuthority } from './certificates.js';

const folder = mkdtempSync(join(tmpdir(), 'stand-in-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const wish = { commonName: 'Crane', applicationUri: 'urn:crane', hosts: ['crane'], fromDay: -1, toDay: 9 };

describe('what is brought by hand', () => {
  it('is read from the folders of Annex F, and nothing else of it', async () => {
    const { certificatePem } = await makeApplication(wish, null);
    const der = derIn(certificatePem);
    const zip = writePkiFolder({ ...emptyFolder, own: [der], trusted: [der], issuers: [der] }, 'crane', 'Read me.');
    expect(listsIn(zip)).toEqual({
      trustedCertificates: [der],
      trustedCrls: [],
      issuerCertificates: [der],
      issuerCrls: [],
    });
  });
});

describe('the files of a trust list', () => {
  it('hold what was written, replace only the lists that are named, and keep dates', async () => {
    const store = new TrustStore(folder);
    const [a, b, authority] = (
      await Promise.all([makeApplication(wish, null), makeApplication(wish, null), makeAuthority('CA', -1, 9)])
    ).map(({ certificatePem }) => derIn(certificatePem)) as [Uint8Array, Uint8Array, Uint8Array];
    await store.write({ trustedCertificates: [a, b], issuerCertificates: [authority] });
    await store.date('trustedCertificates', a, new Date('2024-01-01'));
    await store.write({ trustedCertificates: [a] });
    expect(await store.read()).toMatchObject({
      trustedCertificates: [a],
      issuerCertificates: [authority],
      trustedCrls: [],
    });
  });
});
