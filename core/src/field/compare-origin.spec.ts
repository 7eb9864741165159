import { compareOrigin, sayExplanation } from './compare-origin.js';
import type { SampledWindow } from './compare-origin.js';
import { wordsFor } from './value-form.js';
import type { ValueForm } from './value-form.js';

const plain: ValueForm = { type: 'float32', order: 'high-first', scale: 1, offset: 0, bits: null };
const [first, place] = [100, 104];

/** Registers around the item’s own, in which the values lie by a form, and what a server makes of them by another. */
function windowOf(
  form: ValueForm,
  values: readonly number[],
  served: readonly (number | boolean | string | null)[],
  differs: Partial<SampledWindow> = {},
): SampledWindow {
  const samples = values.map((value, index) => {
    const words: (number | null)[] = [11, 22, 33, 44, 0, 0, 0, 0, 55, 66, 77, 88];
    wordsFor(value, form).forEach((word, part) => (words[place - first + part] = word));
    return { value: served[index] ?? null, words };
  });
  return { first, place, form, within: null, samples, ...differs };
}

describe('a server’s value and its register', () => {
  it('agree where they say the same, as far as rounding goes', () => {
    const values = [812.5, 812.7, 812.6];
    expect(compareOrigin(windowOf(plain, values, values))).toMatchObject({ outcome: 'agrees', value: 812.6 });
    const tenth: ValueForm = { ...plain, type: 'uint16', scale: 0.1 };
    expect(compareOrigin(windowOf(tenth, [50], [50.04]))).toMatchObject({ outcome: 'agrees' });
    expect(compareOrigin(windowOf(tenth, [50], [50.2]))).toMatchObject({ outcome: 'differs' });
    expect(compareOrigin(windowOf(tenth, [50], [50.2], { within: 0.5 }))).toMatchObject({ outcome: 'agrees' });
  });

  it('agree where the server is a poll behind, or between two', () => {
    expect(compareOrigin(windowOf(plain, [10, 20, 30], [10, 10, 20]))).toMatchObject({ outcome: 'agrees' });
    expect(compareOrigin(windowOf(plain, [10, 20, 30], [10, 15, 25]))).toMatchObject({ outcome: 'agrees' });
    expect(compareOrigin(windowOf(plain, [10, 20, 30], [10, 20, 90]))).toMatchObject({ outcome: 'differs' });
    // The device has moved by so much meanwhile: the server may have asked it before.
    expect(compareOrigin(windowOf(plain, [100, 104, 102], [110, 110, 110]))).toMatchObject({ outcome: 'agrees' });
  });

  /** A measurement as it strays around its mean, drawn by a seed: the same in every run. */
  function* strays(mean: number, swing: number, seed: number): Generator<number, never> {
    let [state, current] = [seed, mean];
    const drawn = (): number => ((state = (state * 1_103_515_245 + 12_345) & 0x7fffffff) >>> 8) / 0x800000;
    for (;;) {
      current += (mean - current) * 0.15 + (drawn() + drawn() + drawn() - 1.5) * swing * 0.5;
      yield Math.round(current * 10) / 10;
    }
  }

  it('agree in nearly all runs of twelve rounds, however the server lags by up to three of them', () => {
    const tenth: ValueForm = { ...plain, type: 'uint16', scale: 0.1 };
    const called = (lag: number, rounds: number): number => {
      let differing = 0;
      for (let seed = 1; seed <= 400; seed += 1) {
        const values = strays(148, 3, seed * 7919);
        const all = Array.from({ length: 20 + rounds }, () => values.next().value);
        const device = all.slice(20);
        const served = device.map((_, index) => all[20 + index - lag] ?? null);
        if (compareOrigin(windowOf(tenth, device, served)).outcome === 'differs') differing += 1;
      }
      return differing;
    };
    for (const lag of [0, 1, 2, 3]) expect(called(lag, 12)).toBeLessThanOrEqual(2);
    // Why five are too few to say so.
    expect(called(3, 5)).toBeGreaterThan(called(3, 12));
  });

  it('can’t be compared where either is missing', () => {
    expect(compareOrigin(windowOf(plain, [10], [null]))).toEqual({ outcome: 'untold' });
    const unread = windowOf(plain, [10], [10]);
    const samples = unread.samples.map(({ value }) => ({ value, words: new Array<null>(12).fill(null) }));
    expect(compareOrigin({ ...unread, samples })).toEqual({ outcome: 'untold' });
    expect(compareOrigin({ ...unread, samples: [] })).toEqual({ outcome: 'untold' });
  });

  it('differ by a register, the words, the bytes, the type or a power of ten', () => {
    const whole: ValueForm = { ...plain, type: 'uint16' };
    const beside = windowOf(whole, [500, 501], [44, 44]);
    expect(compareOrigin(beside)).toMatchObject({
      outcome: 'differs',
      device: 501,
      explained: { what: 'place', place: 103 },
    });
    const swapped = (order: ValueForm['order']) => {
      const served = [812.5, 813.25].map((value) => {
        const view = new DataView(new ArrayBuffer(4));
        wordsFor(value, plain).forEach((word, index, { length }) => {
          const turned = order === 'low-first' ? length - 1 - index : index;
          view.setUint16(turned * 2, order === 'low-first' ? word : ((word & 0xff) << 8) | (word >> 8));
        });
        return view.getFloat32(0);
      });
      return compareOrigin(windowOf(plain, [812.5, 813.25], served));
    };
    expect(swapped('low-first')).toMatchObject({ explained: { what: 'words', form: { order: 'low-first' } } });
    expect(swapped('high-first-swapped')).toMatchObject({
      explained: { what: 'bytes', form: { order: 'high-first-swapped' } },
    });
    expect(compareOrigin(windowOf({ ...plain, type: 'int16' }, [-5, -7], [65_531, 65_529]))).toMatchObject({
      explained: { what: 'type', form: { type: 'uint16' } },
    });
    expect(compareOrigin(windowOf({ ...whole, scale: 0.1 }, [50.1, 50.3], [5.01, 5.03]))).toMatchObject({
      explained: { what: 'scale', factor: 0.1 },
    });
  });

  it('differ without an explanation where there is none', () => {
    expect(compareOrigin(windowOf(plain, [10.25, 10.5], [77_123.5, 99.75]))).toMatchObject({
      outcome: 'differs',
      explained: null,
    });
    expect(compareOrigin(windowOf(plain, [10.25], [0]))).toMatchObject({ outcome: 'differs', explained: null });
  });

  it('may be switches and texts', () => {
    const bit: ValueForm = { ...plain, type: 'bool', bits: { from: 3, count: 1 } };
    expect(compareOrigin(windowOf(bit, [1], [true]))).toMatchObject({ outcome: 'agrees', value: true });
    expect(compareOrigin(windowOf(bit, [1], [false]))).toMatchObject({ outcome: 'differs', device: true });
  });

  it('is explained in words', () => {
    const form = { ...plain, order: 'low-first' as const };
    const address = (at: number): string => `4${at}`;
    expect(sayExplanation({ what: 'place', place: 107 }, address)).toBe('reads register 4107');
    expect(sayExplanation({ what: 'words', form }, address)).toBe(
      'reads the words in the other order (low word first)',
    );
    expect(sayExplanation({ what: 'scale', factor: 10, form: { ...form, scale: 10 } }, address)).toBe(
      'multiplies by 10',
    );
  });
});
