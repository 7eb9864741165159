import { encoded, listsIn } from './trust-list.js';

const lists = {
  trustedCertificates: [Uint8Array.from([0x30, 1, 2]), Uint8Array.from([0x30, 9])],
  trustedCrls: [],
  issuerCertificates: [Uint8Array.from([0x30, 3])],
  issuerCrls: [Uint8Array.from([0x30, 4, 4])],
};

describe('a trust list on the line', () => {
  it('comes back as it went', () => {
    expect(listsIn(encoded(lists))).toEqual(lists);
  });

  it('names just those lists that are to be replaced', () => {
    expect(encoded({ trustedCertificates: [], issuerCrls: [] }).readUInt32LE(0)).toBe(1 + 8);
  });

  it('is refused as such where it is cut off or garbage', () => {
    const whole = encoded(lists);
    for (const bytes of [whole.subarray(0, whole.length - 6), Buffer.from('garbage, nothing else'), Buffer.alloc(0)])
      expect(() => listsIn(bytes)).toThrow(/BadDecodingError/);
  });
});
