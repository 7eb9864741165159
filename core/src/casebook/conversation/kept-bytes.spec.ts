import fc from 'fast-check';
import { Budget } from '../capture/budget';
import { KeptBytes } from './kept-bytes';

const text = (kept: KeptBytes): string => String.fromCharCode(...kept.bytes);
const bytesOf = (letters: string): Uint8Array => new TextEncoder().encode(letters);

/** A budget that tells how much of it is taken. */
function counting(most: number) {
  const budget = new Budget(most);
  let taken = 0;
  return {
    take: (bytes: number): boolean => {
      const has = budget.take(bytes);
      if (has) taken += bytes;
      return has;
    },
    give: (bytes: number): void => {
      taken -= bytes;
      budget.give(bytes);
    },
    get taken() {
      return taken;
    },
  };
}

describe('bytes of a message that comes in pieces', () => {
  it('are kept in their order, up to as many as are wanted', () => {
    const pieces = fc.array(fc.string({ unit: fc.constantFrom('a', 'b', 'c'), maxLength: 300 }), { maxLength: 8 });
    fc.assert(
      fc.property(pieces, fc.nat(1200), (all, most) => {
        const kept = new KeptBytes(counting(1 << 20));
        const added = all.map((piece) => kept.add(bytesOf(piece), most));
        expect(text(kept)).toBe(all.join('').slice(0, most));
        expect(kept.length).toBe(added.reduce((sum, count) => sum + count, 0));
      }),
      { numRuns: 300 },
    );
  });

  it('never hold more than there is room for, and give all of it back', () => {
    const acts = fc.array(
      fc.oneof(fc.record({ add: fc.integer({ min: 1, max: 700 }) }), fc.constant({ clear: true as const })),
      { maxLength: 20 },
    );
    fc.assert(
      fc.property(acts, fc.integer({ min: 0, max: 2000 }), (all, room) => {
        const budget = counting(room);
        const kept = new KeptBytes(budget);
        for (const act of all) {
          if ('clear' in act) kept.clear();
          else kept.add(new Uint8Array(act.add), 1 << 16);
          expect(budget.taken).toBeLessThanOrEqual(room);
          expect(kept.length).toBeLessThanOrEqual(budget.taken);
        }
        kept.end();
        expect([budget.taken, kept.length]).toEqual([0, 0]);
      }),
      { numRuns: 300 },
    );
  });

  it('stay as they were where there is no room for more', () => {
    const kept = new KeptBytes(counting(200));
    expect(kept.add(bytesOf('whole'), 1000)).toBe(5);
    expect(kept.add(new Uint8Array(500), 1000)).toBe(0);
    expect(text(kept)).toBe('whole');
  });
});
