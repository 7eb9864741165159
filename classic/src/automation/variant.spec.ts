import fc from 'fast-check';
import { whole, written } from '../ndr/codec.js';
import { NdrReader, NdrWriter } from '../ndr/streams.js';
import { WireFault } from '../octets/wire-fault.js';
import { conformant } from '../ndr/codec.js';
import { variant, variantText, variantTypeName } from './variant.js';
import type { Variant } from './variant.js';

function octetsOf(value: Variant): Uint8Array {
  const writer = new NdrWriter();
  written(variant, value, writer);
  return writer.done();
}
const hex = (octets: Uint8Array): string => Buffer.from(octets).toString('hex');

const scalar: fc.Arbitrary<Variant> = fc.oneof(
  fc.constantFrom<Variant>({ type: 'empty', value: null }, { type: 'null', value: null }),
  fc.boolean().map((value): Variant => ({ type: 'bool', value })),
  fc.integer({ min: -128, max: 127 }).map((value): Variant => ({ type: 'i1', value })),
  fc.integer({ min: 0, max: 255 }).map((value): Variant => ({ type: 'u1', value })),
  fc.integer({ min: -32768, max: 32767 }).map((value): Variant => ({ type: 'i2', value })),
  fc.nat(0xffff).map((value): Variant => ({ type: 'u2', value })),
  fc.integer().map((value): Variant => ({ type: 'i4', value })),
  fc.nat(0xffffffff).map((value): Variant => ({ type: 'u4', value })),
  fc.float().map((value): Variant => ({ type: 'r4', value })),
  fc.double().map((value): Variant => ({ type: 'r8', value })),
  fc.double({ noNaN: true }).map((value): Variant => ({ type: 'date', value })),
  fc.bigInt({ min: -(2n ** 63n), max: 2n ** 63n - 1n }).map((value): Variant => ({ type: 'i8', value })),
  fc.bigInt({ min: -(2n ** 63n), max: 2n ** 63n - 1n }).map((value): Variant => ({ type: 'currency', value })),
  fc.string({ unit: 'grapheme', maxLength: 20 }).map((value): Variant => ({ type: 'text', value })),
  fc
    .record({
      scale: fc.nat(28),
      isNegative: fc.boolean(),
      high: fc.nat(0xffffffff),
      low: fc.bigInt({ min: 0n, max: 2n ** 64n - 1n }),
    })
    .map((value): Variant => ({ type: 'decimal', value })),
);
const array: fc.Arbitrary<Variant> = fc.oneof(
  fc
    .array(fc.double(), { maxLength: 8 })
    .map((values): Variant => ({ type: 'r8', array: values, bounds: [{ count: values.length, lowest: 0 }] })),
  fc
    .array(fc.string({ maxLength: 5 }), { maxLength: 5 })
    .map((values): Variant => ({ type: 'text', array: values, bounds: [{ count: values.length, lowest: 1 }] })),
  fc
    .array(fc.boolean(), { maxLength: 5 })
    .map((values): Variant => ({ type: 'bool', array: values, bounds: [{ count: values.length, lowest: -3 }] })),
  fc
    .array(scalar, { maxLength: 4 })
    .map((values): Variant => ({ type: 'variant', array: values, bounds: [{ count: values.length, lowest: 0 }] })),
  fc.array(fc.integer({ min: -5, max: 5 }), { minLength: 6, maxLength: 6 }).map((values): Variant => ({
    type: 'i4',
    array: values,
    bounds: [
      { count: 2, lowest: 0 },
      { count: 3, lowest: 0 },
    ],
  })),
);

describe('a VARIANT on the wire', () => {
  it('lies as MS-OAUT 2.2.29.1 says: size in eights, type, and the value behind it', () => {
    // Referent; three eights of octets; type 3 twice; the value.
    expect(hex(octetsOf({ type: 'i4', value: 0x01020304 }))).toBe(
      '04000200' + '00000000' + '03000000' + '00000000' + '0300' + '000000000000' + '03000000' + '04030201',
    );
    const text = octetsOf({ type: 'text', value: 'ab' });
    // A text: referent, letters, octets, letters, and the letters themselves.
    expect(hex(text.subarray(28))).toBe('08000200' + '02000000' + '04000000' + '02000000' + '61006200');
    expect(text[8]).toBe(5);
  });

  it('is read as it was written, alone and in arrays', () => {
    fc.assert(
      fc.property(fc.array(fc.oneof(scalar, array), { maxLength: 4 }), (values) => {
        const writer = new NdrWriter();
        written(conformant(variant), values, writer);
        expect(whole(conformant(variant), new NdrReader(writer.done()))).toEqual(values);
      }),
    );
  });

  it('is refused where it is broken, and nothing else happens', () => {
    fc.assert(
      fc.property(
        fc.oneof(scalar, array),
        fc.array(fc.tuple(fc.nat(200), fc.nat(255)), { maxLength: 4 }),
        fc.nat(200),
        (value, changes, length) => {
          const octets = octetsOf(value).slice(0, Math.max(4, length));
          for (const [at, octet] of changes) octets[at % octets.length] = octet;
          try {
            whole(variant, new NdrReader(octets));
          } catch (error) {
            expect(error).toBeInstanceOf(WireFault);
          }
        },
      ),
      { numRuns: 500 },
    );
  });

  it('is told in words', () => {
    expect(variantText({ type: 'r8', array: [1.5, 2], bounds: [{ count: 2, lowest: 0 }] })).toBe('[1.5, 2]');
    expect(variantText({ type: 'decimal', value: { scale: 2, isNegative: true, high: 0, low: 5n } })).toBe('-0.05');
    expect(variantText({ type: 'empty', value: null })).toBe('');
    expect(variantTypeName(0x2005)).toBe('r8[]');
    expect(variantTypeName(99)).toBe('type 99');
  });
});
