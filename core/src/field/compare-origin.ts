import { fieldValue, orderWords, typeWords, valueOrders, valueTypes, wordsFor, wordsOf } from './value-form.js';
import type { FieldValue, ValueForm } from './value-form.js';

/** What a server gave for an item, and what stood around its register at that time. */
export interface SampledPlace {
  /** null: the server gave no value. */
  readonly value: number | boolean | string | null;
  /** From the first place of the window on; null: it could not be read. */
  readonly words: readonly (number | null)[];
}

/** A window of places around an item’s own, sampled some times, the oldest first. */
export interface SampledWindow {
  readonly first: number;
  /** The item’s own first place. */
  readonly place: number;
  readonly form: ValueForm;
  /** How far the values may be apart; null: as far as rounding goes. */
  readonly within: number | null;
  readonly samples: readonly SampledPlace[];
}

export type OriginComparison =
  | { readonly outcome: 'agrees'; readonly device: FieldValue; readonly value: FieldValue }
  /** The register could not be read, or the server gave nothing: there is nothing to compare. */
  | { readonly outcome: 'untold' }
  | {
      readonly outcome: 'differs';
      readonly device: FieldValue;
      readonly value: FieldValue;
      readonly explained: Explanation | null;
    };

/** What the server would have to read, or how, so that its value comes out. */
export type Explanation =
  | { readonly what: 'place'; readonly place: number }
  | { readonly what: 'words' | 'bytes'; readonly form: ValueForm }
  | { readonly what: 'type'; readonly form: ValueForm }
  | { readonly what: 'scale'; readonly form: ValueForm; readonly factor: number };

/** Compares a server’s value with its register, and looks for what would explain a difference. */
export function compareOrigin(window: SampledWindow): OriginComparison {
  const { form, place } = window;
  const device = deviceValues(window, place, form);
  const told = window.samples.findLastIndex(({ value }, index) => value !== null && device[index] !== null);
  const [value, own] = [window.samples[told]?.value ?? null, device[told] ?? null];
  if (value === null || own === null) return { outcome: 'untold' };
  if (agree(window, device)) return { outcome: 'agrees', device: own, value };
  return { outcome: 'differs', device: own, value, explained: explain(window) };
}

/** What a place says by a form in each sample; null: it could not be read. */
export const deviceValues = (
  { samples, first }: Pick<SampledWindow, 'samples' | 'first'>,
  place: number,
  form: ValueForm,
): readonly (FieldValue | null)[] =>
  samples.map(({ words }) => {
    const own = words.slice(place - first, place - first + wordsOf(form));
    return place >= first && own.length === wordsOf(form) && own.every((word) => word !== null)
      ? fieldValue(own as number[], form)
      : null;
  });

/**
 * A server that polls gives what the device had a little while ago, perhaps before we looked: any value between two of the
 * device’s will do, and any that is no further off than the device moved while we looked.
 */
function agree({ samples, within, form }: SampledWindow, device: readonly (FieldValue | null)[]): boolean {
  const numbers = device.flatMap((own) => (typeof own === 'number' || typeof own === 'bigint' ? [Number(own)] : []));
  const [least, most] = [Math.min(...numbers), Math.max(...numbers)];
  const said = new Set(device);
  const moved = Math.min(lagShare * (most - least), mostMoved * Math.max(Math.abs(least), Math.abs(most)));
  let compared = 0;
  for (const [index, { value }] of samples.entries()) {
    if (value === null || (device[index] ?? null) === null) continue;
    compared += 1;
    if (typeof value === 'number') {
      const apart = (within ?? roundingOf(value, form)) + moved;
      if (!(value >= least - apart && value <= most + apart)) return false;
    } else if (!said.has(value)) return false;
  }
  return compared > 0;
}

/** A server may have asked the device before we did: by then it was at most so many times as far off as it moved while we looked. */
const lagShare = 2;
/** What jumps by a larger share of itself while we look is no measurement, but words that mean something else. */
const mostMoved = 0.2;

function isMeasurement(device: readonly (FieldValue | null)[]): boolean {
  const numbers = device.flatMap((own) => (own === null ? [] : [Number(own)]));
  const [least, most] = [Math.min(...numbers), Math.max(...numbers)];
  return most - least <= mostMoved * Math.max(Math.abs(least), Math.abs(most));
}

/** Whether the server gave at least once exactly what the device said: between two readings that say nothing, anything lies. */
const isSaidOnce = ({ samples, within, form }: SampledWindow, device: readonly (FieldValue | null)[]): boolean =>
  samples.some(({ value }) =>
    device.some((own) =>
      typeof value === 'number' && (typeof own === 'number' || typeof own === 'bigint')
        ? Math.abs(value - Number(own)) <= (within ?? roundingOf(value, form))
        : value !== null && value === own,
    ),
  );

/** Half a step of the device, or what a float loses. */
const roundingOf = (value: number, { scale, type }: ValueForm): number =>
  Math.max(type.startsWith('float') ? 0 : Math.abs(scale) / 2, Math.abs(value) * 1e-5, 1e-9);

function explain(window: SampledWindow): Explanation | null {
  const { form, place } = window;
  // Noughts are everywhere.
  if (window.samples.every(({ value }) => value === 0 || value === null)) return null;
  const own = deviceValues(window, place, form);
  /** Whether the server says what the device does, and reads its words by another form of the same length. */
  const isReadAs = (other: ValueForm): boolean =>
    wordsOf(other) === wordsOf(form) &&
    isNearly(
      own,
      window.samples.map(({ value }) => reread(value, other, form)),
    );
  const isAt = (at: number, other = form): boolean => {
    const device = deviceValues(window, at, other);
    const turned = { ...window, form: other };
    return agree(turned, device) && (isMeasurement(device) || isSaidOnce(turned, device));
  };
  const orders = valueOrders.filter((one) => one !== form.order && wordsOf(form) > (one.endsWith('swapped') ? 0 : 1));
  for (const order of orders) {
    const turned = { ...form, order };
    const isBytes = order.endsWith('swapped') !== form.order.endsWith('swapped');
    if (isReadAs(turned) || isAt(place, turned)) return { what: isBytes ? 'bytes' : 'words', form: turned };
  }
  // Of a value of several words the one beside it shares some with it, and may say nearly the same by chance.
  for (const by of [-1, 1, -2, 2]) if (isAt(place + by)) return { what: 'place', place: place + by };
  if (form.type === 'bool' || form.type === 'text') return null;
  const factor = factorOf(window);
  if (factor !== null) {
    const scaled = { ...form, scale: form.scale * factor, offset: form.offset * factor };
    if (isAt(place, scaled)) return { what: 'scale', factor, form: scaled };
  }
  const types = valueTypes.filter((type) => type !== form.type && type !== 'bool' && type !== 'text');
  // What is as long as the value comes first: it is the smaller mistake.
  for (const type of types)
    if (isReadAs({ ...form, type, bits: null })) return { what: 'type', form: { ...form, type, bits: null } };
  for (const type of types)
    if (isAt(place, { ...form, type, bits: null })) return { what: 'type', form: { ...form, type, bits: null } };
  return null;
}

/** Whether numbers that were read back are the device’s, as far as it moved meanwhile; how far values may be apart says nothing of words that are read wrongly. */
function isNearly(device: readonly (FieldValue | null)[], told: readonly SampledPlace['value'][]): boolean {
  const numbers = device.flatMap((own) => (own === null ? [] : [Number(own)]));
  const known = told.filter((value) => value !== null);
  if (numbers.length === 0 || known.length === 0 || !isMeasurement(device)) return false;
  const [least, most] = [Math.min(...numbers), Math.max(...numbers)];
  const size = Math.max(Math.abs(least), Math.abs(most));
  const apart = Math.min(lagShare * (most - least), mostMoved * size) + size * 1e-6;
  return (
    size > 0 && known.every((value) => typeof value === 'number' && value >= least - apart && value <= most + apart)
  );
}

/** What a value would be if the words that say it by one form were read by another. */
function reread(value: SampledPlace['value'], as: ValueForm, by: ValueForm): SampledPlace['value'] {
  if (typeof value !== 'number' || !Number.isFinite((value - as.offset) / as.scale)) return null;
  const words = wordsFor(value, as);
  // A value that the form can’t say was not read by it.
  if (Math.abs(Number(fieldValue(words, as)) - value) > roundingOf(value, as)) return null;
  const told = fieldValue(words, by);
  return typeof told === 'bigint' ? Number(told) : told;
}

/** The power of ten by which the server’s value is off; null: none. */
function factorOf(window: SampledWindow): number | null {
  const device = deviceValues(window, window.place, window.form);
  const index = window.samples.findLastIndex(
    ({ value }, at) => typeof value === 'number' && Number(device[at] ?? 0) !== 0,
  );
  const ratio = Number(window.samples[index]?.value ?? 0) / Number(device[index] ?? 0);
  if (!Number.isFinite(ratio) || ratio <= 0) return null;
  const power = Math.round(Math.log10(ratio));
  return power !== 0 && Math.abs(power) <= 6 ? Number(`1e${power}`) : null;
}

/** An explanation in words, as what the server does. */
export function sayExplanation(explained: Explanation, addressOf: (place: number) => string): string {
  switch (explained.what) {
    case 'place':
      return `reads register ${addressOf(explained.place)}`;
    case 'words':
      return `reads the words in the other order (${orderWords[explained.form.order]})`;
    case 'bytes':
      return `reads the bytes in another order (${orderWords[explained.form.order]})`;
    case 'type':
      return `reads it as ${typeWords[explained.form.type]}`;
    case 'scale':
      return `multiplies by ${explained.form.scale}`;
  }
}
