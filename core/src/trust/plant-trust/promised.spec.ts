import { read, rootOf } from '../../testing/pki.js';
import { day, lists, noon, works } from '../../testing/plant-trust.js';
import type { Works } from '../../testing/plant-trust.js';
import type { Certificate } from '../certificate.js';
import { lintCertificate } from '../lint/index.js';
import { webCryptoVerifier } from '../x509/signatures.js';
import type { SignatureVerifier } from '../x509/signatures.js';
import { PlantJudge } from './plant-judge.js';
import { PromisedCertificate, renewedForDays, withPromises } from './promised.js';

const uri = 'urn:works.example:furnace';
let site: Works;
let today: Certificate;
beforeAll(async () => {
  site = await works();
  today = await site.own('furnace', { uri: 'urn:works.example:mistyped', usages: 128 });
});

const statusBy = async (
  verifier: SignatureVerifier,
  certificate: Certificate,
  trusted: Certificate,
): Promise<string> => {
  const judge = new PlantJudge({ crlsDemanded: false, at: noon }, verifier);
  return (await judge.certificate(lists({ trusted: [trusted] }), certificate, uri, 'furnace.works.example')).status;
};
const promised = (by: Certificate = site.root, at = noon): PromisedCertificate =>
  new PromisedCertificate(today, by, uri, at);

describe('a promised certificate', () => {
  it('is good to those who trust its authority and believe in promises, and to nobody else', async () => {
    expect(await statusBy(withPromises(webCryptoVerifier), promised(), site.root)).toBe('Good');
    expect(await statusBy(webCryptoVerifier, promised(), site.root)).not.toBe('Good');
    const other = (await works()).root;
    expect(await statusBy(withPromises(webCryptoVerifier), promised(), other)).not.toBe('Good');
  });

  it('mends what is wrong with the one of today, and keeps its key, its name and its hosts', async () => {
    expect(await statusBy(webCryptoVerifier, today, today)).not.toBe('Good');
    const made = promised();
    expect(made.summary).toMatchObject({
      subject: today.summary.subject,
      applicationUris: [uri],
      dnsNames: ['furnace.works.example'],
      issuer: site.root.summary.subject,
      authorityKeyId: site.root.summary.subjectKeyId,
      selfIssued: false,
    });
    expect(made.publicKey).toBe(today.publicKey);
    expect(lintCertificate(made).filter(({ severity }) => severity === 'error')).toEqual([]);
  });

  it('lasts as long as one that is signed, and never longer than its authority', async () => {
    const made = promised();
    expect(made.notAfter - noon).toBe(renewedForDays * day);
    const short = read(await rootOf(site.authority, { to: '2026-06-01' }));
    expect(promised(short).notAfter).toBe(short.notAfter);
    const ended = read(await rootOf(site.authority, { to: '2026-02-01' }));
    expect(await statusBy(withPromises(webCryptoVerifier), promised(ended), ended)).toMatch(/TimeInvalid/);
  });

  it('is told apart from every other one, and found again', () => {
    expect(promised().is(promised())).toBe(true);
    expect(promised().is(today)).toBe(false);
    expect(promised().thumbprint).not.toBe(today.thumbprint);
  });
});
