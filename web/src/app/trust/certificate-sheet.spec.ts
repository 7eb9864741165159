import type { CertificateView } from '@loyal-hinge/contract';
import { Shown } from '../../testing/show';
import { CertificateSheet } from './certificate-sheet';

const view = (differs: Partial<CertificateView['certificate']> = {}, unusual: string[] = []): CertificateView => ({
  certificate: {
    thumbprint: 'AB'.repeat(20),
    sha256: 'CD'.repeat(32),
    subject: 'CN=Furnace server',
    issuer: 'CN=Works CA',
    serialNumber: '4F27',
    notBefore: '2025-01-01T00:00:00.000Z',
    notAfter: '2030-01-01T00:00:00.000Z',
    applicationUris: ['urn:furnace'],
    dnsNames: ['furnace'],
    ipAddresses: ['10.0.0.1'],
    keyType: 'RSA',
    keyBits: 2048,
    signatureHash: 'SHA-256',
    keyUsages: ['digitalSignature'],
    extendedKeyUsages: ['serverAuth'],
    isAuthority: false,
    pathLength: null,
    selfIssued: false,
    subjectKeyId: null,
    authorityKeyId: null,
    ...differs,
  },
  unusual,
  firstSeen: '2026-01-01T00:00:00.000Z',
});

describe('the sheet of a certificate', () => {
  it('says everything that matters', () => {
    const { text } = Shown.of(CertificateSheet, { view: view() });
    for (const part of [
      'CN=Works CA',
      'urn:furnace',
      'furnace, 10.0.0.1',
      'RSA, 2048 bits',
      'digitalSignature, serverAuth',
      '4F27',
    ])
      expect(text).toContain(part);
  });

  it('tells of an authority how many may stand below it', () => {
    const authority = { isAuthority: true, pathLength: 0, keyUsages: ['keyCertSign'], extendedKeyUsages: [] };
    expect(Shown.of(CertificateSheet, { view: view(authority) }).text).toContain(
      'an authority, with 0 authorities below it (keyCertSign)',
    );
  });

  it('names the keys by which chains are followed, where it is shown in full', () => {
    const keys = { subjectKeyId: 'EE'.repeat(20), authorityKeyId: 'FF'.repeat(20) };
    expect(Shown.of(CertificateSheet, { view: view(keys), full: true }).text).toMatch(/E{40} .*Issuer’s key F{40}/);
    expect(Shown.of(CertificateSheet, { view: view(keys) }).text).not.toContain('Issuer’s key');
  });

  it('puts what is unusual first', () => {
    const { text } = Shown.of(CertificateSheet, { view: view({}, ['It has only 9 days left.']) });
    expect(text.indexOf('only 9 days left')).toBeLessThan(text.indexOf('CN=Furnace server'));
  });
});
