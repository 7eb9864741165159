import fc from 'fast-check';
import {
  DerFault,
  booleanOf,
  elementAt,
  integerBytes,
  objectIdentifierOf,
  partsOf,
  smallInteger,
  textOf,
  timeOf,
  wholeElement,
} from './der.js';

const of = (...bytes: number[]) => wholeElement(Uint8Array.from(bytes));
const text = (tag: number, value: string) => of(tag, value.length, ...Buffer.from(value, 'latin1'));

describe('DER', () => {
  it.each([
    ['an indefinite length', [0x30, 0x80, 0, 0]],
    ['a length that could be shorter', [0x30, 0x81, 0x01, 0x00]],
    ['a length with a leading zero', [0x30, 0x82, 0x00, 0x80, ...new Array<number>(128).fill(0)]],
    ['a tag of several bytes', [0x3f, 0x81, 0x01, 0x00]],
    ['a length beyond the end', [0x30, 0x05, 0x00]],
    ['nothing', []],
  ])('refuses %s', (_, bytes) => {
    expect(() => elementAt(Uint8Array.from(bytes), 0, bytes.length)).toThrow(DerFault);
  });

  it('splits what stands inside, and nothing is left over', () => {
    fc.assert(
      fc.property(fc.array(fc.uint8Array({ maxLength: 20 }), { maxLength: 5 }), (contents) => {
        const inside = contents.flatMap((content) => [0x04, content.length, ...content]);
        const parts = partsOf(of(0x30, inside.length, ...inside));
        expect(parts.map(({ source, from, to }) => [...source.subarray(from, to)])).toEqual(
          contents.map((c) => [...c]),
        );
      }),
    );
  });

  it.each([
    [[0x02, 0x01, 0x00], 0],
    [[0x02, 0x02, 0x00, 0x80], 128],
    [[0x02, 0x03, 0x01, 0x00, 0x00], 65_536],
  ])('reads the number of %j', (bytes, value) => expect(smallInteger(of(...bytes))).toBe(value));

  it.each([[[0x02, 0x02, 0x00, 0x01]], [[0x02, 0x02, 0xff, 0x80]], [[0x02, 0x00]]])(
    'refuses the number of %j',
    (bytes) => expect(() => integerBytes(of(...bytes))).toThrow(DerFault),
  );

  it('knows true and false, and nothing between', () => {
    expect([booleanOf(of(1, 1, 0xff)), booleanOf(of(1, 1, 0))]).toEqual([true, false]);
    expect(() => booleanOf(of(1, 1, 1))).toThrow(DerFault);
  });

  it.each([
    [[0x06, 0x03, 0x55, 0x1d, 0x13], '2.5.29.19'],
    [[0x06, 0x09, 0x2a, 0x86, 0x48, 0x86, 0xf7, 0x0d, 0x01, 0x01, 0x0b], '1.2.840.113549.1.1.11'],
    [[0x06, 0x01, 0x28], '1.0'],
    [[0x06, 0x02, 0x88, 0x37], '2.999'],
  ])('reads the identifier of %j', (bytes, dotted) => expect(objectIdentifierOf(of(...bytes))).toBe(dotted));

  it.each([
    [0x17, '491231235959Z', '2049-12-31T23:59:59.000Z'],
    [0x17, '500101000000Z', '1950-01-01T00:00:00.000Z'],
    [0x18, '20500101000000Z', '2050-01-01T00:00:00.000Z'],
    [0x18, '00010101000000Z', '0001-01-01T00:00:00.000Z'],
  ])('reads the time of %i %s', (tag, written, iso) => {
    expect(new Date(timeOf(text(tag, written))).toISOString()).toBe(iso);
  });

  it.each([
    [0x17, '260230000000Z'],
    [0x17, '2602280000Z'],
    [0x17, '260228000000+0100'],
    [0x18, '20260228240000Z'],
    [0x18, '20260228000000.5Z'],
  ])('refuses the time %i %s', (tag, written) => expect(() => timeOf(text(tag, written))).toThrow(DerFault));

  it('reads texts of all types', () => {
    expect(textOf(of(0x0c, 3, 0xe2, 0x82, 0xac))).toBe('€');
    expect(textOf(of(0x1e, 4, 0x00, 0x46, 0x20, 0xac))).toBe('F€');
    expect(textOf(of(0x1c, 4, 0x00, 0x01, 0xf5, 0x25))).toBe('🔥');
    expect(() => textOf(of(0x0c, 2, 0xc3, 0x28))).toThrow(DerFault);
  });
});
