import { certificate, now } from '../../../core/src/testing/builders.js';
import { unusualAbout } from './unusual.js';

const signed = { selfIssued: false, issuer: 'CN=Works CA', notAfter: '2029-01-01T00:00:00.000Z' };
const told = (differs: Parameters<typeof certificate>[0]) => unusualAbout(certificate({ ...signed, ...differs }), now);

describe('what is unusual about a certificate', () => {
  it('is nothing where an authority signed an ordinary one', () => {
    expect(told({})).toEqual([]);
  });

  it.each([
    [{ notAfter: '2026-02-01T00:00:00.000Z' }, /expired on 1 February 2026/],
    [{ notBefore: '2026-05-01T00:00:00.000Z' }, /only from 1 May 2026/],
    [{ notAfter: '2026-03-11T12:00:00.000Z' }, /only 10 days left/],
    [{ notAfter: '2045-01-01T00:00:00.000Z' }, /20 years/],
    [{ selfIssued: true }, /self-signed/],
    [{ isAuthority: true }, /authority/],
    [{ applicationUris: [] }, /application URI/],
    [{ dnsNames: [] }, /no host/],
    [{ keyBits: 1024 }, /1024 bits/],
    [{ signatureHash: 'SHA-1' }, /SHA-1/],
  ])('is told: %j', (differs, words) => {
    const lines = told(differs);
    expect(lines).toHaveLength(1);
    expect(lines[0]).toMatch(words);
  });
});
