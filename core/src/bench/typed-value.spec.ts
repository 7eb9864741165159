import { typableTypes, typedValue } from './typed-value.js';
import type { TypedNode } from './typed-value.js';

const node = (dataType: string, differs: Partial<TypedNode> = {}): TypedNode => ({
  dataType,
  isArray: false,
  range: null,
  names: null,
  ...differs,
});
const read = (typed: string, of: TypedNode): unknown => {
  const value = typedValue(typed, of);
  return value.ok ? (of.isArray ? value.elements : value.elements[0]) : value.says;
};

describe('what a person types as a value', () => {
  it.each<[string, string, unknown]>([
    ['Boolean', ' TRUE ', true],
    ['Boolean', 'off', false],
    ['Byte', '255', 255n],
    ['Int16', '-32768', -32_768n],
    ['UInt32', '4294967295', 4_294_967_295n],
    ['Int64', '9223372036854775807', 9_223_372_036_854_775_807n],
    ['UInt64', '18446744073709551615', 18_446_744_073_709_551_615n],
    ['Double', '1.5e3', 1500],
    ['Float', '-.25', -0.25],
    ['String', ' as it is ', ' as it is '],
    ['DateTime', '2026-03-01T02:10:00Z', new Date('2026-03-01T02:10:00Z')],
  ])('is read as %s: %s', (type, typed, value) => {
    expect(read(typed, node(type))).toEqual(value);
  });

  it.each<[string, string, RegExp]>([
    ['Boolean', 'yes', /true or false/],
    ['Byte', '256', /from 0 to 255/],
    ['SByte', '-129', /from -128 to 127/],
    ['UInt64', '18446744073709551616', /from 0 to/],
    ['Int32', '1.5', /whole number/],
    ['Int32', '', /whole number/],
    ['Double', '1,5', /with a point/],
    ['Double', '1e999', /too large/],
    ['Float', '1e39', /too large/],
    ['Double', 'NaN', /with a point/],
    ['DateTime', '1.3.2026', /moment in UTC/],
    ['DateTime', '2026-13-01T02:10:00Z', /moment in UTC/],
    ['String', 'x'.repeat(4001), /4001 letters/],
    ['ExtensionObject', '{}', /ExtensionObject can’t be typed/],
  ])('is refused as %s: %s', (type, typed, says) => {
    expect(read(typed, node(type))).toMatch(says);
  });

  it('is held to the range that the server names', () => {
    const range = { low: 0, high: 100 };
    expect(read('100', node('Double', { range }))).toBe(100);
    expect(read('100.1', node('Double', { range }))).toMatch(/from 0 to 100\./);
    expect(read('-1', node('Int16', { range }))).toMatch(/it goes from/);
  });

  it('is a name or number of an enumeration, and no other number', () => {
    const names = new Map([
      [0, 'Stopped'],
      [2, 'Running'],
    ]);
    expect(read('running', node('Int32', { names }))).toBe(2n);
    expect(read('2', node('Int32', { names }))).toBe(2n);
    expect(read('1', node('Int32', { names }))).toMatch(/Stopped, Running/);
    expect(read('walking', node('Int32', { names }))).toMatch(/Stopped, Running/);
  });

  it('is a list with an element a line, and says which line is wrong', () => {
    expect(read('1\n2', node('UInt16', { isArray: true }))).toEqual([1n, 2n]);
    expect(read('', node('UInt16', { isArray: true }))).toEqual([]);
    expect(read('1\nx', node('UInt16', { isArray: true }))).toMatch(/^Line 2: Type a whole number/);
    expect(read('1\n'.repeat(1001), node('UInt16', { isArray: true }))).toMatch(/At most 1000/);
  });

  it('never throws, whatever it is', () => {
    for (const type of typableTypes)
      for (const typed of ['', ' ', '\0', '-', '+', '.', 'e', '1e', '0x10', '٣', '1_000', '-0', '00'])
        expect(() => typedValue(typed, node(type, { range: { low: 0, high: 1 } }))).not.toThrow();
  });
});
