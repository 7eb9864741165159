import { KeyUsageFlags } from '@peculiar/x509';
import { certify, party, rawExtension, read, rootOf } from '../../testing/pki.js';
import type { Party, Wish } from '../../testing/pki.js';
import { lintCertificate, lintRules } from './index.js';
import { serialNumberRule } from './rules/serial-number.js';

let works: Party, app: Party, weak: Party;
beforeAll(async () => {
  [works, app] = await Promise.all([party('Works CA', 'RSA'), party('app', 'RSA')]);
  const keys = await crypto.subtle.generateKey(
    { name: 'RSASSA-PKCS1-v1_5', hash: 'SHA-1', publicExponent: new Uint8Array([1, 0, 1]), modulusLength: 1024 },
    true,
    ['sign', 'verify'],
  );
  weak = { name: 'weak', algorithm: 'RSA', keys };
});
const found = async (wish: Wish, subject = app, issuer = works) =>
  lintCertificate(read(await certify(subject, issuer, wish))).map(({ ruleId }) => ruleId);

describe('the linter', () => {
  it('has nothing to remark about a certificate in order', async () => {
    expect(await found({ to: '2028-01-01' })).toEqual([]);
  });

  it.each<[string, Wish]>([
    ['validity-order', { from: '2028-01-01', to: '2027-01-01' }],
    ['long-validity', { to: '2045-01-01' }],
    ['common-name', { subjectName: 'O=Works' }],
    ['organization', { subjectName: 'CN=app' }],
    ['application-uri', { uri: 'urn:works example:app' }],
    ['host-names', { dns: [] }],
    ['host-names', { dns: ['localhost'] }],
    ['key-usage', { usages: KeyUsageFlags.digitalSignature }],
    ['authority-key-id', { keyIds: false }],
    ['unknown-critical', { more: [rawExtension('1.2.3.4', true, 5, 0)] }],
  ])('finds %s of %j', async (rule, wish) => {
    expect(await found({ to: '2028-01-01', ...wish })).toEqual([rule]);
  });

  it.each(['FF01', '00', '01'.repeat(21)])('does not like the serial number %s', async (serialNumber) => {
    const certificate = read(await certify(app, works));
    const odd = Object.assign(Object.create(certificate) as typeof certificate, { serialNumber });
    expect(serialNumberRule.test(certificate)).toBeNull();
    expect(serialNumberRule.test(odd)).toMatch(/serial number/);
  });

  it('finds a key that is too short', async () => {
    expect(await found({ to: '2028-01-01' }, weak)).toEqual(['key-size']);
  });

  it('finds what an authority’s certificate lacks as an application’s', async () => {
    expect(lintCertificate(read(await rootOf(works, { to: '2028-01-01' }))).map(({ ruleId }) => ruleId)).toEqual([
      'application-uri',
      'key-usage',
      'extended-key-usage',
      'host-names',
      'basic-constraints',
    ]);
  });

  it('remarks on a self-signed certificate that may not sign itself', async () => {
    expect(await found({ to: '2028-01-01' }, app, app)).toEqual(['self-signed-key-usage']);
  });

  it('gives every rule its clause and a remedy', () => {
    for (const { clause, remedy } of lintRules) {
      expect(clause).toMatch(/Part 6|RFC 5280/);
      expect(remedy.length).toBeGreaterThan(20);
    }
    expect(new Set(lintRules.map(({ id }) => id)).size).toBe(lintRules.length);
  });
});
