import fc from 'fast-check';
import { joinBytes, le16, le32 } from '../testing/captures';
import { BinaryFault, BinaryReader, typeIdAt, typeIdBytes, u32At } from './binary-reader';

const text = (value: string): Uint8Array => {
  const bytes = new TextEncoder().encode(value);
  return joinBytes(le32(bytes.length), bytes);
};
const absent = le32(0xffffffff);
/** Node ids in all encodings (Part 6 §5.2.2.9), with the number that a numeric one of namespace 0 has. */
const nodeIds: readonly (readonly [string, Uint8Array, number | null])[] = [
  ['of two bytes', joinBytes([0, 84]), 84],
  ['of four bytes', joinBytes([1, 0], le16(631)), 631],
  ['of four bytes in another namespace', joinBytes([1, 3], le16(631)), null],
  ['numeric', joinBytes([2], le16(0), le32(70_000)), 70_000],
  ['numeric in another namespace', joinBytes([2], le16(1), le32(70_000)), null],
  ['of a string', joinBytes([3], le16(2), text('Furnace/Crown')), null],
  ['of a GUID', joinBytes([4], le16(2), new Uint8Array(16).fill(7)), null],
  ['of opaque bytes', joinBytes([5], le16(2), text('opaque')), null],
];
const behind = [0xab, 0xcd];

describe('a reader of UA Binary', () => {
  it('reads numbers, the low byte first', () => {
    const reader = new BinaryReader(joinBytes([7], le16(0xfedc), le32(0xfedcba98)));
    expect([reader.u8(), reader.u16(), reader.u32(), reader.at]).toEqual([7, 0xfedc, 0xfedcba98, 7]);
    expect(u32At(Uint8Array.of(0, 0xff, 0xff, 0xff, 0xff), 1)).toBe(0xffffffff);
  });

  it('tells a string that is absent from one that is empty', () => {
    const reader = new BinaryReader(joinBytes(absent, text(''), text('Brennöfen'), absent, text('')));
    expect([reader.string(), reader.string(), reader.string()]).toEqual([null, '', 'Brennöfen']);
    expect([reader.byteString(), reader.byteString()]).toEqual([null, new Uint8Array()]);
  });

  it.each(nodeIds)('reads a node id %s, and goes on behind it', (_, bytes, number) => {
    const reader = new BinaryReader(joinBytes(bytes, behind));
    expect([reader.nodeId(), reader.at]).toEqual([number, bytes.length]);
  });

  it('reads as many elements as an array says, and none of one that is absent', () => {
    const reader = new BinaryReader(joinBytes(le32(3), [1, 2, 3], absent, [9]));
    const read: number[] = [];
    reader.array(() => read.push(reader.u8()));
    reader.array(() => read.push(reader.u8()));
    expect([read, reader.u8()]).toEqual([[1, 2, 3], 9]);
  });

  it('passes over localised texts, whichever parts they have', () => {
    for (const [mask, parts] of [
      [0, []],
      [1, [text('de')]],
      [2, [text('Ofen')]],
      [3, [text('de'), text('Ofen')]],
    ] as const) {
      const reader = new BinaryReader(joinBytes([mask], ...parts, behind));
      reader.localizedText();
      expect(reader.u8()).toBe(0xab);
    }
  });

  it('reads extension objects, with a body and without', () => {
    const id = joinBytes([1, 0], le16(321));
    const full = new BinaryReader(joinBytes(id, [1], text('body'), behind));
    expect(full.extensionObject()).toEqual({ typeId: 321, body: new TextEncoder().encode('body') });
    expect(full.u8()).toBe(0xab);
    const empty = new BinaryReader(joinBytes(id, [0], behind));
    expect([empty.extensionObject(), empty.u8()]).toEqual([{ typeId: 321, body: null }, 0xab]);
  });

  it('passes over the header of a request', () => {
    const header = joinBytes([0, 0], new Uint8Array(16), text('audit'), le32(10_000), [0, 0, 0]);
    const reader = new BinaryReader(joinBytes(header, behind));
    reader.requestHeader();
    expect(reader.at).toBe(header.length);
  });

  it('never reads beyond the end, wherever bytes are cut off, and believes no length', () => {
    const whole = joinBytes([3], le16(2), text('Furnace'));
    for (let length = 0; length < whole.length; length += 1)
      expect(() => new BinaryReader(whole.subarray(0, length)).nodeId()).toThrow(BinaryFault);
    expect(() => new BinaryReader(joinBytes(le32(0x7fffffff), [1])).byteString()).toThrow(BinaryFault);
    expect(() => new BinaryReader(joinBytes(le32(1_000_000))).array(() => undefined)).not.toThrow();
    expect(() => new BinaryReader(Uint8Array.of(6)).nodeId()).toThrow(BinaryFault);
  });

  it('ends with a fault or a value, whatever the bytes', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 60 }), (bytes) => {
        const reader = new BinaryReader(bytes);
        try {
          reader.requestHeader();
          reader.localizedText();
          reader.extensionObject();
        } catch (error) {
          expect(error).toBeInstanceOf(BinaryFault);
        }
        expect(reader.at).toBeLessThanOrEqual(bytes.length);
      }),
      { numRuns: 500 },
    );
  });
});

describe('the type of a message at a place', () => {
  it.each(nodeIds)('is known of a node id %s', (_, bytes, number) => {
    const all = joinBytes([0xff, 0xff], bytes, behind);
    expect(typeIdAt(all, 2)).toBe(number);
    expect(typeIdAt(bytes, 0)).toBe(number);
  });

  it('is not known where its bytes end before it does, though others follow', () => {
    for (const [, bytes, number] of nodeIds) {
      if (number === null) continue;
      const all = joinBytes(bytes, behind, behind);
      expect(typeIdBytes(all, 0)).toBe(bytes.length);
      for (let end = 0; end < bytes.length; end += 1) {
        expect(typeIdAt(all, 0, end)).toBeNull();
        expect(typeIdAt(bytes.subarray(0, end), 0)).toBeNull();
      }
    }
  });

  it('is the same as a reader tells, whatever the bytes', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 12 }), fc.constantFrom(0, 1, 2), (bytes, kind) => {
        const all = joinBytes([kind], bytes);
        const read = (): number | null => {
          try {
            return new BinaryReader(all).nodeId();
          } catch {
            return null;
          }
        };
        expect(typeIdAt(all, 0)).toBe(read());
      }),
      { numRuns: 500 },
    );
  });
});
