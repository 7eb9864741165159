import fc from 'fast-check';
import { works } from '../testing/plant-trust.js';
import type { Works } from '../testing/plant-trust.js';
import { readPkcs7 } from './pkcs7.js';

/** One DER element (X.690 §8.1). */
function der(tag: number, ...parts: readonly Uint8Array[]): Uint8Array {
  const content = parts.flatMap((part) => [...part]);
  const length: number[] = [];
  for (let rest = content.length; rest > 0; rest = Math.floor(rest / 256)) length.unshift(rest % 256);
  const header = content.length < 0x80 ? [content.length] : [0x80 | length.length, ...length];
  return Uint8Array.from([tag, ...header, ...content]);
}
const oid = (hex: string): Uint8Array => der(6, Uint8Array.from(Buffer.from(hex, 'hex')));
const version = der(2, Uint8Array.from([1]));
const data = der(0x30, oid('2a864886f70d010701'));

/** A bundle that signs nothing (RFC 2315 §9.1, the degenerate case). */
const bundle = (certificates: readonly Uint8Array[], crls: readonly Uint8Array[]): Uint8Array =>
  der(
    0x30,
    oid('2a864886f70d010702'),
    der(0xa0, der(0x30, version, der(0x31), data, der(0xa0, ...certificates), der(0xa1, ...crls), der(0x31))),
  );

let site: Works;
beforeAll(async () => {
  site = await works();
});

describe('a PKCS#7 bundle', () => {
  it('gives its certificates and CRLs, in their order', async () => {
    const [leaf, crl] = [await site.signed('furnace'), await site.crl()];
    const read = readPkcs7(bundle([leaf.der, site.root.der], [crl.der]));
    expect(read.ok && read.certificates.map(({ subject }) => subject.text)).toEqual([
      'CN=furnace, O=Works',
      'CN=Works CA, O=Works',
    ]);
    expect(read.ok && read.crls.map(({ id }) => id)).toEqual([crl.id]);
  });

  it('is refused whole where one of its certificates can’t be read', () => {
    expect(readPkcs7(bundle([site.root.der, site.root.der.subarray(0, 90)], []))).toMatchObject({ ok: false });
  });

  it('is not taken for one where it is another kind of content', () => {
    const other = der(0x30, oid('2a864886f70d010701'), der(0xa0, der(4)));
    expect(readPkcs7(other)).toEqual({ ok: false, says: 'This is no PKCS#7 bundle of certificates.' });
    expect(readPkcs7(site.root.der)).toMatchObject({ ok: false });
  });

  it('never throws at what is cut off or broken', () => {
    const whole = bundle([site.root.der], []);
    fc.assert(
      fc.property(fc.nat(whole.length - 1), fc.integer({ min: 1, max: 255 }), (at, change) => {
        expect(readPkcs7(whole.subarray(0, at)).ok).toBe(false);
        const broken = Uint8Array.from(whole);
        broken[at] = (broken[at] ?? 0) ^ change;
        const read = readPkcs7(broken);
        expect(read.ok || read.says.length > 10).toBe(true);
      }),
      { numRuns: 600 },
    );
  });
});
