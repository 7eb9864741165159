import fc from 'fast-check';
import { fieldValue, sayForm, valueOrders, wordsFor, wordsOf } from './value-form.js';
import type { ValueForm, ValueType } from './value-form.js';

const plain: ValueForm = { type: 'uint16', order: 'high-first', scale: 1, offset: 0, bits: null };
const form = (differs: Partial<ValueForm>): ValueForm => ({ ...plain, ...differs });
const numbers: Readonly<Partial<Record<ValueType, fc.Arbitrary<number | bigint>>>> = {
  int16: fc.integer({ min: -0x8000, max: 0x7fff }),
  uint16: fc.nat(0xffff),
  int32: fc.integer(),
  uint32: fc.nat(0xffffffff),
  int64: fc.bigInt({ min: -(2n ** 63n), max: 2n ** 63n - 1n }),
  uint64: fc.bigInt({ min: 0n, max: 2n ** 64n - 1n }),
  float32: fc.float({ noNaN: true }),
  float64: fc.double({ noNaN: true }),
  bcd16: fc.nat(9999),
  bcd32: fc.nat(99_999_999),
};

describe('a value in registers', () => {
  it.each(Object.keys(numbers) as ValueType[])('%s: says what was put there, in every order', (type) => {
    const any = numbers[type];
    if (!any) throw new Error('no numbers');
    fc.assert(
      fc.property(any, fc.constantFrom(...valueOrders), (value, order) => {
        const words = wordsFor(value, form({ type, order }));
        expect(words).toHaveLength(wordsOf({ type }));
        expect(fieldValue(words, form({ type, order }))).toEqual(value);
      }),
    );
  });

  it('lies as the orders say', () => {
    const words = (order: ValueForm['order']) =>
      wordsFor(0x01020304, form({ type: 'uint32', order })).map((word) => word.toString(16).padStart(4, '0'));
    expect(words('high-first')).toEqual(['0102', '0304']);
    expect(words('low-first')).toEqual(['0304', '0102']);
    expect(words('high-first-swapped')).toEqual(['0201', '0403']);
    expect(words('low-first-swapped')).toEqual(['0403', '0201']);
  });

  it('is scaled, moved, and cut to its bits', () => {
    expect(fieldValue([250], form({ scale: 0.1, offset: -5 }))).toBe(20);
    expect(wordsFor(20, form({ scale: 0.1, offset: -5 }))).toEqual([250]);
    expect(fieldValue([0xfff0], form({ type: 'int16' }))).toBe(-16);
    expect(fieldValue([0xabcd], form({ bits: { from: 4, count: 8 } }))).toBe(0xbc);
    expect(fieldValue([0xffff, 0x8000], form({ type: 'uint32', bits: { from: 15, count: 4 } }))).toBe(0xf);
    expect(fieldValue([0b100], form({ type: 'bool', bits: { from: 2, count: 1 } }))).toBe(true);
    expect(fieldValue([1], form({ type: 'bool', bits: { from: 2, count: 1 } }))).toBe(false);
    expect(fieldValue([0, 0, 1, 0x1f0], form({ type: 'int64', bits: { from: 4, count: 8 } }))).toBe(0x1fn);
  });

  it('in BCD has no digit above 9', () => {
    expect(fieldValue([0x1234], form({ type: 'bcd16' }))).toBe(1234);
    expect(fieldValue([0x12a4], form({ type: 'bcd16' }))).toBeNaN();
  });

  it('of text ends at the first nought', () => {
    const text = form({ type: 'text', registers: 4 });
    expect(fieldValue([0x4c65, 0x6872, 0x0041, 0x4142], text)).toBe('Lehr');
    expect(fieldValue(wordsFor('Lehr 2', text), text)).toBe('Lehr 2');
    expect(fieldValue([0x654c, 0x7268], form({ type: 'text', order: 'high-first-swapped', registers: 2 }))).toBe(
      'Lehr',
    );
    expect(fieldValue([0x01ff], form({ type: 'text' }))).toBe('··');
  });

  it.each([
    [{}, 'unsigned 16-bit integer'],
    [{ type: 'float32', order: 'low-first', scale: 0.1, offset: 4 }, 'float, low word first × 0.1 + 4'],
    [{ type: 'int16', order: 'high-first-swapped', offset: -4 }, '16-bit integer, bytes swapped − 4'],
    [{ type: 'bool', bits: { from: 3, count: 1 } }, 'bool, bit 3'],
    [{ bits: { from: 0, count: 4 } }, 'unsigned 16-bit integer, bits 0 to 3'],
  ] as const)('%j is said', (differs, words) => {
    expect(sayForm(form(differs))).toBe(words);
  });
});
