import fc from 'fast-check';
import { Budget } from '../capture/budget';
import { Chunks, messageTypeOf } from './chunks';
import type { ChunkEar } from './chunks';

interface Heard {
  readonly head: string;
  readonly size: number;
  readonly body: string;
  readonly isWhole: boolean;
}
interface Cut {
  readonly heard: readonly Heard[];
  readonly losses: number;
  readonly isAmid: boolean;
}

const ascii = (text: string): Uint8Array => new TextEncoder().encode(text);

/** A chunk as it is sent: the letters of its kind and ending, its size, its body. */
function sent(head: string, body: string, size = 8 + body.length): Uint8Array {
  const bytes = new Uint8Array(8 + body.length);
  bytes.set(ascii(head));
  new DataView(bytes.buffer).setUint32(4, size, true);
  bytes.set(ascii(body), 8);
  return bytes;
}

const joined = (...parts: readonly Uint8Array[]): Uint8Array => Uint8Array.from(parts.flatMap((part) => [...part]));

/** Hears what was sent, in pieces that end at some places; a number among them is a gap of so many bytes. */
function cut(parts: readonly (Uint8Array | number)[], wanted: ChunkEar['wanted'] = () => 1 << 16, most = 1 << 20): Cut {
  const heard: Heard[] = [];
  const chunks = new Chunks(
    {
      wanted,
      chunk: ({ type, ending, size, body, isWhole }) =>
        heard.push({ head: `${type}${ending}`, size, body: String.fromCharCode(...body), isWhole }),
    },
    new Budget(most),
  );
  for (const part of parts)
    if (typeof part === 'number') chunks.miss(part);
    else {
      // Among other bytes, as it lies in a packet.
      const around = joined(ascii('MSGF'), part, ascii('HELF'));
      chunks.take(around, 4, around.length - 4);
    }
  const { losses, isAmid } = chunks;
  chunks.end();
  return { heard, losses, isAmid };
}

const body = fc.string({ unit: fc.constantFrom('a', 'b', 'M', 'S', 'G', 'F'), minLength: 4, maxLength: 40 });
const chunk = fc.tuple(fc.constantFrom('HELF', 'OPNF', 'MSGF', 'MSGC', 'MSGA', 'CLOF'), body);

describe('what one end of UA TCP sends', () => {
  it('is the same chunks, however it is cut into pieces', () => {
    fc.assert(
      fc.property(fc.array(chunk, { minLength: 1, maxLength: 6 }), fc.array(fc.nat(30)), (all, lengths) => {
        const bytes = joined(...all.map(([head, text]) => sent(head, text)));
        const pieces: Uint8Array[] = [];
        let at = 0;
        for (const length of lengths) {
          pieces.push(bytes.subarray(at, at + length));
          at += length;
        }
        pieces.push(bytes.subarray(at));
        const expected = all.map(([head, text]) => ({ head, size: 8 + text.length, body: text, isWhole: true }));
        expect(cut(pieces)).toEqual({ heard: expected, losses: 0, isAmid: false });
      }),
      { numRuns: 300 },
    );
  });

  it('is told as soon as there is as much of a chunk as is wanted, and the rest is passed over', () => {
    const wanted = (): number => 3;
    const bytes = joined(sent('MSGF', 'abcdef'), sent('CLOF', 'wxyz'));
    const expected = [
      { head: 'MSGF', size: 14, body: 'abc', isWhole: false },
      { head: 'CLOF', size: 12, body: 'wxy', isWhole: false },
    ];
    expect(cut([bytes], wanted).heard).toEqual(expected);
    const single = Array.from({ length: bytes.length }, (_, index) => bytes.subarray(index, index + 1));
    expect(cut(single, wanted).heard).toEqual(expected);
  });

  it('is wanted longer where its beginning says so', () => {
    const wanted = (_: string, bytes: Uint8Array, begin: number, end: number): number =>
      end - begin >= 2 && bytes[begin] === 0x61 ? 5 : 2;
    const both = joined(sent('MSGF', 'abcdef'), sent('MSGF', 'bcdefg'));
    for (const pieces of [[both], [both.subarray(0, 9), both.subarray(9, 11), both.subarray(11)]])
      expect(cut(pieces, wanted).heard.map((one) => one.body)).toEqual(['abcde', 'bc']);
  });

  it('goes on behind a gap within a chunk, which is told as far as it was there', () => {
    const bytes = joined(sent('MSGF', 'abcdefgh'), sent('CLOF', 'wxyz'));
    expect(cut([bytes.subarray(0, 10), 4, bytes.subarray(14)])).toEqual({
      heard: [
        { head: 'MSGF', size: 16, body: 'ab', isWhole: false },
        { head: 'CLOF', size: 12, body: 'wxyz', isWhole: true },
      ],
      losses: 0,
      isAmid: false,
    });
  });

  it('is found again where a gap has swallowed the beginning of a chunk', () => {
    const bytes = joined(sent('MSGF', 'abcd'), sent('MSGF', 'efgh'), sent('MSGF', 'ijkl'));
    const { heard, losses } = cut([bytes.subarray(0, 12), 3, bytes.subarray(15)]);
    expect(heard.map((one) => one.body)).toEqual(['abcd', 'ijkl']);
    expect(losses).toBe(1);
  });

  it('believes no size that is too small or too large for a chunk', () => {
    for (const size of [0, 7, (256 << 20) + 1, 0xffffffff]) {
      const { heard, losses } = cut([joined(sent('MSGF', 'abcd', size), sent('MSGF', 'efgh'))]);
      expect(heard.map((one) => one.body)).toEqual(['efgh']);
      expect(losses).toBe(1);
    }
  });

  it('keeps no more than there is room for, and tells what there was', () => {
    const bytes = sent('MSGF', 'x'.repeat(4000));
    const pieces = Array.from({ length: 41 }, (_, index) => bytes.subarray(index * 100, index * 100 + 100));
    const { heard, isAmid } = cut(pieces, () => 4000, 1024);
    expect(heard).toHaveLength(1);
    expect(heard[0]?.size).toBe(4008);
    expect(heard[0]?.isWhole).toBe(false);
    expect(heard[0]?.body.length).toBeGreaterThan(0);
    expect(heard[0]?.body.length).toBeLessThanOrEqual(1024);
    expect(isAmid).toBe(false);
  });

  it('is amid a chunk until the last of its bytes has come, wanted or not', () => {
    const bytes = sent('MSGF', 'abcdef');
    for (let end = 1; end < bytes.length; end += 1) expect(cut([bytes.subarray(0, end)], () => 2).isAmid).toBe(true);
    expect(cut([bytes], () => 2).isAmid).toBe(false);
  });
});

describe('the kind of a message', () => {
  it('is told by its letters; only those of services may come in several chunks', () => {
    const kind = (text: string): string | null => messageTypeOf(ascii(text), 0);
    expect(['HELF', 'ACKF', 'ERRF', 'RHEF', 'OPNF', 'MSGF', 'CLOF', 'MSGC', 'MSGA'].map(kind)).toEqual([
      ...['HEL', 'ACK', 'ERR', 'RHE', 'OPN', 'MSG', 'CLO', 'MSG', 'MSG'],
    ]);
    expect(['OPNC', 'HELA', 'MSGX', 'GETF', 'MSG', ''].map(kind)).toEqual([null, null, null, null, null, null]);
  });
});
