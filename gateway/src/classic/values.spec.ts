import type { Variant, VariantType } from '@loyal-hinge/classic';
import fc from 'fast-check';
import { builtInOf, classicCodeOf, classicOf, statusNameOf, valueOfClassic, variantTypeOf } from './values';

const good = 0xc0;

describe('a classic value', () => {
  it.each<[Variant, string, unknown]>([
    [{ type: 'r8', value: 1.5 }, 'Double', 1.5],
    [{ type: 'bool', value: true }, 'Boolean', true],
    [{ type: 'text', value: 'a' }, 'String', 'a'],
    [{ type: 'i4', value: -7 }, 'Int32', -7],
    [{ type: 'currency', value: 12_345n }, 'Double', 1.2345],
    [{ type: 'date', value: 25_569 }, 'DateTime', new Date(0)],
    [{ type: 'i2', array: [1, 2], bounds: [{ count: 2, lowest: 0 }] }, 'Int16', [1, 2]],
  ])('%j is a %s', (variant, type, value) => {
    expect(valueOfClassic(variant, good, 5)).toEqual({ value, type, status: 0, sourceTime: 5, raw: null });
  });

  it('of a type that UA has no word for is bad, and was bad stays as bad', () => {
    expect(valueOfClassic({ type: 'empty', value: null }, good, null)).toMatchObject({
      value: null,
      status: 0x8074_0000,
    });
    expect(valueOfClassic({ type: 'error', value: 5 }, 0x18, null)).toMatchObject({ value: null, status: 0x8031_0000 });
    expect(valueOfClassic({ type: 'date', value: 1e300 }, good, null).status).toBe(0x8074_0000);
  });

  it('comes back as it was, of every type that can be written', () => {
    const types: readonly VariantType[] = ['i1', 'u1', 'i2', 'u2', 'i4', 'u4', 'r4', 'r8'];
    fc.assert(
      fc.property(fc.constantFrom(...types), fc.integer({ min: 0, max: 100 }), (type, value) => {
        const variant = classicOf(value, type);
        expect(variant && valueOfClassic(variant, good, null).value).toBe(value);
        expect(variantTypeOf(builtInOf(type))).toBe(type);
      }),
    );
    const at = new Date(Date.UTC(2026, 10, 28, 9, 30));
    const date = classicOf(at, 'date');
    expect(date && valueOfClassic(date, good, null).value).toEqual(at);
  });

  it.each<[unknown, VariantType]>([
    ['1', 'r8'],
    [1, 'text'],
    [1, 'bool'],
    [5, 'date'],
    [1, 'currency'],
    [null, 'i4'],
    [1, 'variant'],
  ])('is not made of %j as %s', (value, type) => {
    expect(classicOf(value, type)).toBeNull();
  });
});

describe('what came of a write', () => {
  it.each([
    [0, 'Good'],
    [0x0004_000e, 'Good'],
    [0xc004_0006, 'BadNotWritable'],
    [0xc004_0004, 'BadTypeMismatch'],
    [0xc004_000b, 'BadOutOfRange'],
    [0xc004_0007, 'BadNodeIdUnknown'],
    [0x8007_0005, 'BadUserAccessDenied'],
    [0x8000_4005, 'Bad'],
  ])('%i is %s', (code, name) => {
    expect(statusNameOf(code)).toBe(name);
  });

  it('is good for a classic client where it is good, and only there', () => {
    for (const name of ['Good', 'BadNotWritable', 'BadTypeMismatch', 'BadOutOfRange', 'BadNoCommunication', 'Bad'])
      expect([name, classicCodeOf(name) === 0]).toEqual([name, name === 'Good']);
  });
});
