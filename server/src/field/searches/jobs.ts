import { fieldValue, findRegister, sayForm, wordsOf, writeAddress } from '@loyal-hinge/core/field';
import type { AddressConvention, FinderInput, ModbusTable, ValueForm } from '@loyal-hinge/core/field';
import type { FoundRegister } from '@loyal-hinge/contract';
import type { Database } from '../../database/database.js';

/** What a search has seen so far, and how its places are written. */
export interface SeenSoFar {
  readonly input: FinderInput;
  readonly table: ModbusTable;
  readonly convention: AddressConvention;
}
export interface FoundSoFar {
  readonly says: string;
  readonly changesSeen: number;
  readonly found: FoundRegister[];
}

/** Laying lines through thousands of registers takes a good part of a second. */
export const fieldJobs = {
  findRegister: (_: Database, { input, table, convention }: SeenSoFar): Promise<FoundSoFar> => {
    const { says, changesSeen, candidates } = findRegister(input);
    return Promise.resolve({
      says,
      changesSeen,
      found: candidates.map(({ place, form, changesSeen: _seen, ...told }) => ({
        ...told,
        place,
        form: { ...form },
        address: writeAddress(place, table, convention),
        says: sayForm(form),
        series: input.samples.map(({ places }) => numberAt(places, place - input.first, form)),
      })),
    });
  },
};
export type FieldJobs = typeof fieldJobs;

function numberAt(places: readonly (number | null)[], at: number, form: ValueForm): number | null {
  const words = places.slice(at, at + wordsOf(form));
  if (words.length < wordsOf(form) || words.some((word) => word === null)) return null;
  const value = Number(fieldValue(words as number[], form));
  return Number.isFinite(value) ? value : null;
}
