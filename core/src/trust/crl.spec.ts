import fc from 'fast-check';
import { X509CrlReason } from '@peculiar/x509';
import { party, revoke } from '../testing/pki.js';
import { readCrl } from './crl.js';

let crl: Uint8Array;
beforeAll(async () => {
  crl = await revoke(await party('Works CA'), {
    revoked: [
      { serialNumber: '0a', revocationDate: new Date('2026-01-05'), reason: X509CrlReason.keyCompromise },
      { serialNumber: '00b1', revocationDate: new Date('2026-01-06') },
    ],
  });
});

describe('a CRL', () => {
  it('tells its issuer, its times and whom it revokes, and why', () => {
    const read = readCrl(crl);
    if (!read.ok) throw new Error(read.says);
    expect(read.crl.issuer.text).toBe('CN=Works CA, O=Works');
    expect(new Date(read.crl.thisUpdate).toISOString()).toBe('2026-02-01T00:00:00.000Z');
    expect(new Date(read.crl.nextUpdate ?? 0).toISOString()).toBe('2026-06-01T00:00:00.000Z');
    expect([...read.crl.revoked.values()]).toMatchObject([
      { serialNumber: '0A', since: '2026-01-05T00:00:00.000Z', reason: 'keyCompromise' },
      { serialNumber: '00B1', reason: 'unspecified' },
    ]);
  });

  it('is refused in words where it is cut off or broken, and nothing throws', () => {
    fc.assert(
      fc.property(fc.nat(crl.length - 1), fc.integer({ min: 1, max: 255 }), (at, change) => {
        expect(readCrl(crl.subarray(0, at)).ok).toBe(false);
        const broken = Uint8Array.from(crl);
        broken[at] = (broken[at] ?? 0) ^ change;
        const read = readCrl(broken);
        expect(read.ok || read.says.length > 10).toBe(true);
      }),
      { numRuns: 1000 },
    );
  });
});
