import { exportKey, freshSerialNumber, issueApplicationCertificate, makeKeys } from '@loyal-hinge/core/issuing';
import { writePem } from '@loyal-hinge/core';
import { isDue } from './post';

const dayMs = 86_400_000;

describe('the certificate of an outpost', () => {
  it('is asked for anew when two thirds of its time are over, and not before', async () => {
    const keys = await makeKeys('P-256');
    const from = Date.UTC(2026, 0, 1);
    const der = await issueApplicationCertificate(
      {
        subject: { commonName: 'Outpost', organization: '' },
        applicationUri: 'urn:works:outpost',
        hosts: [],
        publicKey: await exportKey('spki', keys.publicKey),
        serialNumber: freshSerialNumber(),
        notBefore: from,
        notAfter: from + 300 * dayMs,
      },
      { kind: 'P-256', privateKey: keys.privateKey, certificate: null },
    );
    const pem = writePem('CERTIFICATE', der);
    expect(isDue(pem, from + 199 * dayMs)).toBe(false);
    expect(isDue(pem, from + 201 * dayMs)).toBe(true);
  });
});
