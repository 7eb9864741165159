import fc from 'fast-check';
import { findRegister } from './find-register.js';
import type { FieldSample } from './find-register.js';
import { fieldValue, valueOrders, wordsFor } from './value-form.js';
import type { ValueForm } from './value-form.js';

const plain: ValueForm = { type: 'uint16', order: 'high-first', scale: 1, offset: 0, bits: null };

/** Chance that is the same each time (a linear congruence). */
function chance(seed: number): () => number {
  let state = seed;
  return () => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return state / 2 ** 32;
  };
}

interface World {
  readonly form: ValueForm;
  readonly place: number;
  readonly lag?: number;
  /** By how many samples the server is less late than by its lag, at each. */
  readonly sooner?: (index: number) => number;
  readonly samples?: number;
  readonly width?: number;
  readonly value?: (index: number, random: () => number) => number;
  readonly differs?: (places: (number | null)[], index: number) => void;
}

/** A device whose registers all move, one of which a server reads. */
function samplesOf({
  form,
  place,
  lag = 0,
  sooner = () => 0,
  samples = 60,
  width = 130,
  value,
  differs,
}: World): FieldSample[] {
  const random = chance(place + 7);
  const walk = Array.from({ length: samples + lag }, (_, index) =>
    value ? value(index, random) : 200 + Math.sin(index / 5) * 40 + random() * 10,
  );
  const words = walk.map((one) => wordsFor(one, form));
  return Array.from({ length: samples }, (_, index) => {
    const places: (number | null)[] = Array.from({ length: width }, (_, at) =>
      at % 3 === 0 ? 1000 + at : Math.floor(random() * 0x10000),
    );
    words[index + lag]?.forEach((word, part) => (places[place + part] = word));
    differs?.(places, index);
    const told = fieldValue(words[index + sooner(index)] ?? [], form);
    return { value: typeof told === 'boolean' ? told : Math.fround(Number(told)), places };
  });
}

const found = (world: World) => findRegister({ first: 100, holds: 'words', samples: samplesOf(world) });

describe('the search for the register of a value', () => {
  it.each<[string, ValueForm]>([
    ['a tenth of an integer', { ...plain, scale: 0.1 }],
    ['a float with its words the other way round', { ...plain, type: 'float32', order: 'low-first' }],
    ['a float with its bytes swapped', { ...plain, type: 'float32', order: 'high-first-swapped' }],
    ['an integer of 32 bits', { ...plain, type: 'uint32', scale: 0.0001 }],
    ['an integer of 4 to 20 mA', { ...plain, scale: 0.0125, offset: -20 }],
    ['a double', { ...plain, type: 'float64', order: 'low-first' }],
    ['BCD', { ...plain, type: 'bcd16', scale: 0.1 }],
    ['long BCD', { ...plain, type: 'bcd32', scale: 0.001 }],
    ['a negative scale', { ...plain, scale: -0.1, offset: 500 }],
  ])('finds %s', (_, form) => {
    const { candidates, says } = found({ form, place: 77 });
    expect(candidates[0]).toMatchObject({ place: 177, form, lag: 0, sureness: 'proved' });
    expect(says).toBe('One register follows the value, and no other does.');
  });

  it('finds any plain number wherever it is', () => {
    const forms = fc.record({
      type: fc.constantFrom<ValueForm['type']>('int32', 'float32', 'uint32', 'float64'),
      order: fc.constantFrom(...valueOrders),
      place: fc.nat(36),
    });
    fc.assert(
      fc.property(forms, ({ type, order, place }) => {
        const form: ValueForm = { ...plain, type, order, scale: type.startsWith('float') ? 1 : 0.00001 };
        const [best] = found({ form, place, width: 40 }).candidates;
        expect(best).toMatchObject({ place: 100 + place, explained: 60, compared: 60 });
        expect(best?.form.order).toBe(order);
      }),
      { numRuns: 25 },
    );
  });

  it('follows a server that polls late', () => {
    const { candidates } = found({ form: { ...plain, scale: 0.1 }, place: 9, lag: 2 });
    expect(candidates[0]).toMatchObject({ place: 109, lag: 2, sureness: 'proved' });
  });

  it('finds it where the server is late by another sample at times', () => {
    const sooner = (index: number): number => (index % 4 === 0 ? 0 : 1);
    for (const lag of [1, 2]) {
      const { candidates } = found({ form: { ...plain, scale: 0.1 }, place: 9, lag, sooner });
      expect(candidates[0]).toMatchObject({ place: 109, lag: lag - 1, sureness: 'proved' });
      expect(candidates[0]?.explained).toBeGreaterThanOrEqual(58);
    }
  });

  it('takes no chance for that where a value has few states', () => {
    const states = (index: number): number => 1 + (((index + 1) >> 1) % 3);
    const sooner = (index: number): number => (index % 4 === 0 ? 0 : 1);
    const { candidates } = found({ form: plain, place: 9, lag: 1, sooner, value: states });
    expect(candidates.filter(({ sureness }) => sureness === 'proved')).toEqual([]);
  });

  it('bears readings that went wrong', () => {
    const { candidates } = found({
      form: { ...plain, scale: 0.1 },
      place: 50,
      differs: (places, index) => (index % 15 === 0 ? places.fill(null) : undefined),
    });
    expect(candidates[0]).toMatchObject({ place: 150, explained: 56, compared: 56 });
  });

  it('says that copies can’t be told apart', () => {
    const { candidates, says } = found({
      form: { ...plain, scale: 0.1 },
      place: 30,
      differs: (places) => (places[120] = places[30] ?? null),
    });
    expect(candidates.slice(0, 2).map(({ place, sureness }) => [place, sureness])).toEqual([
      [130, 'alike'],
      [220, 'alike'],
    ]);
    expect(says).toContain('wait for more changes');
  });

  it('tells look-alikes apart once they part', () => {
    const { candidates } = found({
      form: { ...plain, scale: 0.1 },
      place: 30,
      differs: (places, index) => (places[120] = index < 40 ? (places[30] ?? null) : 7),
    });
    expect(candidates[0]).toMatchObject({ place: 130, sureness: 'proved' });
    expect(candidates[1]).toMatchObject({ place: 220 });
  });

  it('is not sure of a value that does not change, and offers what holds it', () => {
    const { candidates, says, changesSeen } = found({ form: { ...plain, scale: 0.1 }, place: 30, value: () => 21.5 });
    expect(changesSeen).toBe(0);
    expect(candidates.some(({ place }) => place === 130)).toBe(true);
    expect(candidates.every(({ sureness }) => sureness === 'unmoved')).toBe(true);
    expect(says).toContain('did not change meanwhile');
  });

  it('is not sure after few changes', () => {
    const { candidates } = found({
      form: { ...plain, scale: 0.1 },
      place: 30,
      value: (index) => (index < 30 ? 21.5 : 22.5),
    });
    expect(candidates[0]).toMatchObject({ place: 130, sureness: 'likely', changes: 1, changesSeen: 1 });
  });

  it('finds a bit', () => {
    const random = chance(3);
    const samples = Array.from({ length: 60 }, () => {
      const isOn = random() > 0.5;
      const places = Array.from({ length: 50 }, () => Math.floor(random() * 0x10000));
      places[20] = ((places[20] ?? 0) & ~(1 << 6)) | (isOn ? 1 << 6 : 0);
      return { value: isOn, places };
    });
    const { candidates } = findRegister({ first: 0, holds: 'words', samples });
    expect(candidates[0]).toMatchObject({ place: 20, form: { type: 'bool', bits: { from: 6 } }, sureness: 'proved' });
    const coils = samples.map(({ value }, index) => ({ value, places: [index & 1, value ? 1 : 0] }));
    expect(findRegister({ first: 8, holds: 'bits', samples: coils }).candidates[0]).toMatchObject({ place: 9 });
  });

  it('stays with a value that moves faster than it is sampled', () => {
    const random = chance(5);
    const samples = Array.from({ length: 60 }, () => {
      const level = (mean: number): number => Math.round((mean + random() * 2) * 10);
      return {
        value: 162 + random() * 2,
        places: [level(148), level(162), level(177), Math.floor(random() * 0x10000)],
      };
    });
    const { candidates, says } = findRegister({ first: 10, holds: 'words', samples });
    expect(candidates.map(({ place, sureness }) => [place, sureness])).toEqual([[11, 'near']]);
    expect(says).toContain('faster than it was sampled');
  });

  it('finds nothing where nothing is', () => {
    const random = chance(9);
    const samples = Array.from({ length: 60 }, (_, index) => ({
      value: Math.sin(index) * 50,
      places: Array.from({ length: 100 }, () => Math.floor(random() * 0x10000)),
    }));
    expect(findRegister({ first: 0, holds: 'words', samples })).toMatchObject({
      candidates: [],
      says: 'No register of the range explains the value.',
    });
    expect(findRegister({ first: 0, holds: 'words', samples: samples.slice(0, 1) }).says).toContain('Two samples');
  });
});
