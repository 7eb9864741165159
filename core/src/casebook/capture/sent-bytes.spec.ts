import fc from 'fast-check';
import { Budget } from './budget';
import { SentBytes } from './sent-bytes';
import type { StreamEar } from './sent-bytes';

interface Sent {
  readonly from: number;
  readonly length: number;
}

/** Remembers each byte at its place; null: it was said to be missing. */
class Heard {
  readonly bytes: (number | null)[] = [];
  hear(bytes: Uint8Array, begin: number, end: number): void {
    this.bytes.push(...bytes.subarray(begin, end));
  }
  miss(count: number): void {
    this.bytes.push(...Array<null>(count).fill(null));
  }
}

const byteAt = (place: number): number => (place * 31 + (place >> 8)) & 255;
const payload = ({ from, length }: Sent): Uint8Array => Uint8Array.from({ length }, (_, index) => byteAt(from + index));

/** The reference: every byte that was sent, sorted by its place. */
function placesOf(sent: readonly Sent[]): ReadonlySet<number> {
  return new Set(sent.flatMap(({ from, length }) => Array.from({ length }, (_, index) => from + index)));
}

/** A payload lies amid the bytes of its packet. */
function takes(stream: SentBytes, sequence: number, recorded: Uint8Array, length: number, at: number, ear: StreamEar) {
  const packet = Uint8Array.from([7, ...recorded, 9, 9]);
  stream.take(sequence, packet, 1, 1 + recorded.length, length, at, ear);
}

function taken(start: number, sent: readonly Sent[], budget = new Budget(1 << 24)) {
  const stream = new SentBytes(budget);
  const heard = new Heard();
  stream.begin(start);
  sent.forEach((segment, index) =>
    takes(stream, (start + segment.from) >>> 0, payload(segment), segment.length, index, heard),
  );
  stream.end(heard);
  return { heard: heard.bytes, stream };
}

const segments = fc.array(
  fc.record({ from: fc.integer({ min: 0, max: 3000 }), length: fc.integer({ min: 1, max: 400 }) }),
  {
    minLength: 1,
    maxLength: 60,
  },
);
const start = fc.oneof(fc.integer({ min: 0, max: 0xffffffff }), fc.integer({ min: 0xfffff000, max: 0xffffffff }));

describe('what one side sends', () => {
  it('comes out as if its bytes had been sorted, whatever the order, the repeats and the overlaps', () => {
    fc.assert(
      fc.property(segments, start, (sent, first) => {
        const places = placesOf(sent);
        const end = Math.max(...places) + 1;
        const { heard, stream } = taken(first, sent);
        expect(heard).toEqual(Array.from({ length: end }, (_, place) => (places.has(place) ? byteAt(place) : null)));
        expect(stream.bytes).toBe(places.size);
        expect(stream.hasGaps).toBe(places.size < end);
      }),
      { numRuns: 150 },
    );
  });

  it('is whole where each byte came at least once', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 1, max: 50 }), { minLength: 1, maxLength: 40 }),
        fc.infiniteStream(fc.nat()),
        start,
        (lengths, random, first) => {
          let from = 0;
          const sent = lengths.map((length) => ({ from: (from += length) - length, length }));
          const shuffled = [...sent, ...sent.slice(0, 5)]
            .map((segment) => ({ segment, key: random.next().value as number }))
            .sort((one, other) => one.key - other.key)
            .map(({ segment }) => segment);
          const { heard, stream } = taken(first, shuffled);
          expect(heard).toEqual(Array.from({ length: from }, (_, place) => byteAt(place)));
          expect([stream.bytes, stream.hasGaps]).toEqual([from, false]);
        },
      ),
    );
  });

  it('goes on after bytes that the receiver has and nobody recorded', () => {
    const stream = new SentBytes(new Budget(1 << 24));
    const heard = new Heard();
    stream.begin(100);
    takes(stream, 100, payload({ from: 0, length: 10 }), 10, 0, heard);
    takes(stream, 120, payload({ from: 20, length: 10 }), 10, 1000, heard);
    stream.acknowledge(130, 2000, heard);
    expect(heard.bytes).toHaveLength(10);
    stream.acknowledge(130, 400_000, heard);
    expect(heard.bytes.slice(10)).toEqual([...Array<null>(10).fill(null), ...payload({ from: 20, length: 10 })]);
    takes(stream, 110, payload({ from: 10, length: 10 }), 10, 500_000, heard);
    expect([stream.bytes, heard.bytes.length]).toEqual([30, 30]);
  });

  it('says of bytes that were sent and not recorded that they are missing, and counts them', () => {
    const stream = new SentBytes(new Budget(1 << 24));
    const heard = new Heard();
    stream.begin(0);
    takes(stream, 0, payload({ from: 0, length: 4 }), 10, 0, heard);
    takes(stream, 10, payload({ from: 10, length: 2 }), 2, 0, heard);
    expect(heard.bytes).toEqual([
      ...payload({ from: 0, length: 4 }),
      ...Array<null>(6).fill(null),
      byteAt(10),
      byteAt(11),
    ]);
    expect(stream.bytes).toBe(12);
  });

  it('holds no more than it may, and gives everything back', () => {
    const budget = new Budget(5000);
    const sent = Array.from({ length: 3000 }, (_, index) => ({ from: 10 + index * 2, length: 1 }));
    const { heard, stream } = taken(0, sent, budget);
    expect(stream.bytes).toBe(3000);
    expect(heard).toHaveLength(6009);
    expect(budget.take(5000)).toBe(true);
  });

  it('lets nothing wait where there is no room: what is there goes on, with its gaps', () => {
    const stream = new SentBytes(new Budget(700));
    const heard = new Heard();
    stream.begin(0);
    for (const from of [10, 20]) takes(stream, from, payload({ from, length: 1 }), 1, 0, heard);
    expect(heard.bytes).toHaveLength(0);
    takes(stream, 30, payload({ from: 30, length: 1 }), 1, 0, heard);
    expect(heard.bytes.map((byte, place) => (byte === null ? null : place)).filter((place) => place !== null)).toEqual([
      10, 20, 30,
    ]);
    expect([heard.bytes.length, stream.bytes, stream.hasGaps]).toEqual([31, 3, true]);
  });

  it('gives up a gap once too much waits behind it', () => {
    const stream = new SentBytes(new Budget(1 << 24));
    let [heard, missed] = [0, 0];
    const ear = {
      hear: (_: Uint8Array, begin: number, end: number) => (heard += end - begin),
      miss: (count: number) => (missed += count),
    };
    stream.begin(0);
    const part = new Uint8Array(64 * 1024);
    for (let index = 0; index < 20; index += 1) takes(stream, 1000 + index * part.length, part, part.length, 0, ear);
    expect(missed).toBe(1000);
    expect(heard).toBeGreaterThan(1 << 20);
  });

  it('counts what was sent before the first segment that was seen, and doesn’t tell it', () => {
    const stream = new SentBytes(new Budget(1 << 24));
    const heard = new Heard();
    takes(stream, 500, payload({ from: 500, length: 5 }), 5, 0, heard);
    takes(stream, 480, payload({ from: 480, length: 20 }), 20, 0, heard);
    takes(stream, 480, payload({ from: 480, length: 20 }), 20, 0, heard);
    expect([stream.bytes, heard.bytes.length]).toEqual([25, 5]);
  });
});
