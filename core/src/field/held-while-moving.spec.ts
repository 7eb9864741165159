import { heldWhileMoving } from './held-while-moving.js';
import { wordsFor } from './value-form.js';
import type { ValueForm } from './value-form.js';

const form: ValueForm = { type: 'int16', order: 'high-first', scale: 0.1, offset: 0, bits: null };
const seen = (registers: readonly (number | null)[], served: readonly (number | null)[]) =>
  heldWhileMoving({
    first: 9,
    place: 10,
    form,
    samples: registers.map((value, index) => ({
      at: new Date(index * 500).toISOString(),
      value: served[index] ?? null,
      words: [1, ...(value === null ? [null] : wordsFor(value, form)), 1],
    })),
  });

describe('a value that is held while its register moves', () => {
  it('is told with how long it was held', () => {
    expect(seen([1, 1.1, 1.2, 1.3], [1, 1, 1, 1])).toEqual({ isHeld: true, forMs: 1500 });
  });

  it('is none where the value goes on, or the register stands or changed just once', () => {
    expect(seen([1, 1.1, 1.2], [1, 1, 1.2]).isHeld).toBe(false);
    expect(seen([1, 1, 1], [1, 1, 1]).isHeld).toBe(false);
    expect(seen([1, 1.1, 1.1], [1, 1, 1]).isHeld).toBe(false);
  });

  it('is none where one of the two was not read', () => {
    expect(seen([1, 1.1, 1.2], []).isHeld).toBe(false);
    expect(seen([null, null, null], [1, 1, 1]).isHeld).toBe(false);
    expect(seen([], [])).toEqual({ isHeld: false, forMs: 0 });
  });
});
