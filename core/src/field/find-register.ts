import { candidateForms } from './candidate-forms.js';
import type { PlaceTable } from './candidate-forms.js';
import { ValueToMatch } from './match-value.js';
import { ranked } from './rank-candidates.js';
import type { Candidate, Scored } from './rank-candidates.js';

/** A value that an OPC server gave, and what stood in a range of places of a device at that time. */
export interface FieldSample {
  readonly value: number | boolean;
  /** Words, or bits as 0 and 1, from the first place of the range on; null: it could not be read. */
  readonly places: readonly (number | null)[];
}

export interface FinderInput {
  /** The first place of the range, from 0. */
  readonly first: number;
  readonly holds: 'words' | 'bits';
  /** In their order of time, evenly apart. */
  readonly samples: readonly FieldSample[];
}

export interface FinderResult {
  readonly candidates: readonly Candidate[];
  /** How often the value changed. */
  readonly changesSeen: number;
  /** What it comes to, for people. */
  readonly says: string;
}

/** Works out which place, type, order, scale and offset explain a value. */
export function findRegister({ first, holds, samples }: FinderInput): FinderResult {
  const values = samples.map(({ value }) => Number(value));
  const changesSeen = changesIn(values);
  if (samples.length < 2) return { candidates: [], changesSeen, says: 'Two samples are needed at least.' };
  const isBool = samples.every(({ value }) => typeof value === 'boolean');
  const width = Math.min(...samples.map(({ places }) => places.length));
  const target = new ValueToMatch(values);
  const found: Scored[] = [];
  const raw = new Float64Array(samples.length);
  const table = tableOf(samples, width);
  for (const form of candidateForms(holds, isBool))
    for (let place = 0; place + form.words <= width; place += 1) {
      if (!form.read(table, place, raw)) continue;
      const exact = isBool ? target.matchBool(raw) : target.match(raw);
      const scored = exact && (exact.changes > 0 || changesSeen === 0) ? exact : isBool ? null : target.near(raw);
      if (scored) found.push({ ...scored, place: first + place, form });
    }
  const candidates = ranked(found, changesSeen);
  return { candidates, changesSeen, says: sayFound(candidates, changesSeen) };
}

const tableOf = (samples: readonly FieldSample[], width: number): PlaceTable =>
  Array.from({ length: width }, (_, place) => Float64Array.from(samples, ({ places }) => places[place] ?? NaN));

function changesIn(values: readonly number[]): number {
  let changes = 0;
  for (let index = 1; index < values.length; index += 1) if (values[index] !== values[index - 1]) changes += 1;
  return changes;
}

function sayFound(candidates: readonly Candidate[], changesSeen: number): string {
  const [best] = candidates;
  if (changesSeen === 0)
    return best
      ? 'The value did not change meanwhile: these registers hold it now, and which of them it comes from can’t be told.'
      : 'The value did not change meanwhile, and no register of the range holds it.';
  if (!best) return 'No register of the range explains the value.';
  if (best.sureness === 'near')
    return 'The value moves faster than it was sampled. These registers stay with it: sample oftener, or for longer.';
  if (best.sureness === 'alike') return 'Several registers explain the value alike: wait for more changes.';
  return best.sureness === 'proved'
    ? 'One register follows the value, and no other does.'
    : 'One register explains the value best: wait for more changes to be sure.';
}
