import type { TypedElement } from '@loyal-hinge/core';
import type { ItemValue, Variant } from '@loyal-hinge/classic';
import {
  codeWords,
  readClassicValue,
  shapeOfClassic,
  shownToType,
  typeName,
  typedName,
  variantOfTyped,
} from './classic-values.js';

const good = (value: Variant): ItemValue => ({ value, quality: 0xc0, error: 0, timestamp: Date.UTC(2026, 10, 27) });
const list: Variant = { type: 'i4', array: [1, 2], bounds: [{ count: 2, lowest: 1 }] };

describe('values of classic Data Access', () => {
  it('are told with value, number, type and the one time that they have', () => {
    expect(readClassicValue(good({ type: 'r8', value: 4.25 }))).toEqual({
      code: 'Good',
      value: '4.25',
      number: 4.25,
      dataType: 'VT_R8',
      sourceTimestamp: '2026-11-27T00:00:00.000Z',
      serverTimestamp: null,
    });
    expect(readClassicValue(good({ type: 'u8', value: 2n ** 63n }))).toMatchObject({ value: '9223372036854775808' });
    expect(readClassicValue(good({ type: 'currency', value: 15_000n }))).toMatchObject({
      value: '1.5000',
      number: 1.5,
    });
    expect(readClassicValue(good({ type: 'date', value: 1.5 }))).toMatchObject({ number: null });
    expect(readClassicValue(good(list))).toMatchObject({ value: '[1, 2]', number: null, dataType: 'VT_I4 array' });
    expect(readClassicValue(good({ type: 'empty', value: null }))).toMatchObject({ value: null, dataType: null });
  });

  it('have their quality, or what failed, in words', () => {
    expect(codeWords({ error: 0, quality: 0xc0 })).toBe('Good');
    expect(codeWords({ error: 0, quality: 0xd8 })).toBe('Good: local override');
    expect(codeWords({ error: 0, quality: 0x08 })).toBe('Bad: not connected');
    expect(codeWords({ error: 0xc0040007, quality: 0xc0 })).toBe('Bad: 0xc0040007, there is no such item');
    expect(readClassicValue({ ...good({ type: 'r8', value: 1 }), error: 0xc0040006 }).value).toBeNull();
  });

  it('are shown as a switch, a list or as they are, and typed the same way', () => {
    expect(shapeOfClassic({ type: 'bool', value: true })).toEqual({ kind: 'switch', isOn: true });
    expect(shapeOfClassic(list)).toEqual({ kind: 'list', count: 2, elements: ['1', '2'] });
    expect(shapeOfClassic({ type: 'text', value: 'x' })).toEqual({ kind: 'plain' });
    expect(shownToType(list)).toBe('1\n2');
    expect(shownToType({ type: 'null', value: null })).toBeNull();
    expect([typedName('text'), typedName('int'), typedName('decimal')]).toEqual(['String', 'Int32', 'decimal']);
    expect(typeName(0x2000 | 99)).toBe('type 99 array');
  });

  it('that somebody typed have the type of the value before', () => {
    const typed: readonly (readonly [Variant, readonly TypedElement[], Variant])[] = [
      [{ type: 'i2', value: 1 }, [7n], { type: 'i2', value: 7 }],
      [{ type: 'i8', value: 1n }, [7n], { type: 'i8', value: 7n }],
      [{ type: 'bool', value: false }, [true], { type: 'bool', value: true }],
      [{ type: 'date', value: 0 }, [new Date(Date.UTC(1899, 11, 31, 12))], { type: 'date', value: 1.5 }],
      [list, [4n, 5n, 6n], { type: 'i4', array: [4, 5, 6], bounds: [{ count: 3, lowest: 1 }] }],
    ];
    for (const [before, elements, wanted] of typed) expect(variantOfTyped(before, elements)).toEqual(wanted);
  });
});
