import { digitsIn, swapped, valueOrders, wordsOf } from './value-form.js';
import type { ValueForm, ValueOrder, ValueType } from './value-form.js';

const { isNaN, isFinite } = Number;

/** What samples found in a range of places: one row a place, in it one number a sample; what could not be read is NaN. */
export type PlaceTable = readonly Float64Array[];

/** A form in which values are looked for. */
export interface CandidateForm {
  readonly form: ValueForm;
  readonly words: number;
  /** What it takes for granted: longer and odder forms more. */
  readonly cost: number;
  /** Puts what each sample says at a place into a row. False: it says nothing there. */
  read(table: PlaceTable, at: number, into: Float64Array): boolean;
}

const orderCost: Readonly<Record<ValueOrder, number>> = {
  'high-first': 0,
  'low-first': 1,
  'high-first-swapped': 2,
  'low-first-swapped': 2,
};
const typeCost: Readonly<Partial<Record<ValueType, number>>> = {
  uint16: 0,
  int16: 0.5,
  float32: 1,
  int32: 1.5,
  uint32: 1,
  bcd16: 2,
  bcd32: 3,
  float64: 2,
  int64: 2.5,
  uint64: 2,
};

/** All forms in which a value is looked for; those of a bool are single bits. */
export const candidateForms = (holds: 'words' | 'bits', isBool: boolean): readonly CandidateForm[] => {
  if (holds === 'bits') return [bitForm(0, 0)];
  return isBool ? Array.from({ length: 16 }, (_, bit) => bitForm(bit, bit === 0 ? 0 : 0.5)) : numberForms;
};

function bitForm(bit: number, cost: number): CandidateForm {
  return {
    form: { type: 'bool', order: 'high-first', scale: 1, offset: 0, bits: bit === 0 ? null : { from: bit, count: 1 } },
    words: 1,
    cost,
    read(table, at, into) {
      const row = table[at];
      if (!row) return false;
      for (let index = 0; index < into.length; index += 1) {
        const word = row[index] ?? NaN;
        into[index] = isNaN(word) ? NaN : (word >> bit) & 1;
      }
      return true;
    },
  };
}

const scratch = new DataView(new ArrayBuffer(8));
const readers: Readonly<Partial<Record<ValueType, () => number>>> = {
  int16: () => scratch.getInt16(0),
  uint16: () => scratch.getUint16(0),
  int32: () => scratch.getInt32(0),
  uint32: () => scratch.getUint32(0),
  float32: () => scratch.getFloat32(0),
  float64: () => scratch.getFloat64(0),
  int64: () => Number(scratch.getBigInt64(0)),
  uint64: () => Number(scratch.getBigUint64(0)),
  bcd16: () => digitsIn(scratch.getUint16(0), 4),
  bcd32: () => digitsIn(scratch.getUint32(0), 8),
};

const numberForms: readonly CandidateForm[] = (Object.keys(readers) as ValueType[]).flatMap((type) => {
  const words = wordsOf({ type });
  // Of one word there is no order but that of its octets.
  const orders = words === 1 ? valueOrders.filter((order) => order.startsWith('high')) : valueOrders;
  return orders.map((order) => numberForm(type, order, words));
});

function numberForm(type: ValueType, order: ValueOrder, words: number): CandidateForm {
  const readNumber = readers[type] ?? (() => NaN);
  const lowFirst = order.startsWith('low');
  const isSwapped = order.endsWith('swapped');
  return {
    form: { type, order, scale: 1, offset: 0, bits: null },
    words,
    cost: (typeCost[type] ?? 4) + orderCost[order],
    read(table, at, into) {
      let isAny = false;
      for (let index = 0; index < into.length; index += 1) {
        let isThere = true;
        for (let part = 0; part < words; part += 1) {
          const word = table[at + (lowFirst ? words - 1 - part : part)]?.[index] ?? NaN;
          if (isNaN(word)) isThere = false;
          else scratch.setUint16(part * 2, isSwapped ? swapped(word) : word);
        }
        const number = isThere ? readNumber() : NaN;
        into[index] = number;
        isAny ||= isFinite(number);
      }
      return isAny;
    },
  };
}
