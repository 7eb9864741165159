import { z } from 'zod';
import type { FinderInput } from './find-register.js';
import { modbusTables, placesInTable, tableShapes } from './modbus/tables.js';

/** More is no search, but a copy of the device. */
export const mostPlacesSearched = 2000;
const mostSamples = 5000;

const shape = z.strictObject({
  table: z.enum(modbusTables),
  first: z
    .int()
    .min(0)
    .max(placesInTable - 1),
  samples: z
    .array(
      z.strictObject({
        at: z.string().optional(),
        value: z.union([z.number(), z.boolean()]),
        places: z.array(z.int().min(0).max(0xffff).nullable()).min(1).max(mostPlacesSearched),
      }),
    )
    .min(1)
    .max(mostSamples),
});

/** The file’s form (docs/formats.md): `{ "table", "first", "samples": [{ "at"?, "value", "places": [word or null, …] }, …] }`. */
export function readSamples(
  text: string,
): { readonly ok: true; readonly input: FinderInput } | { readonly ok: false; readonly says: string } {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    return { ok: false, says: 'It is no JSON.' };
  }
  const read = shape.safeParse(json);
  if (!read.success) {
    const [issue] = read.error.issues;
    const place = issue?.path.map(String).join('.') ?? '';
    return { ok: false, says: `${place === '' ? 'The file' : `“${place}”`}: ${issue?.message ?? 'is not valid'}.` };
  }
  const { table, first, samples } = read.data;
  const [{ places } = { places: [] }] = samples;
  const uneven = samples.findIndex((sample) => sample.places.length !== places.length);
  if (uneven >= 0)
    return {
      ok: false,
      says: `“samples.${uneven}” has ${samples[uneven]?.places.length ?? 0} places, and the first has ${places.length}.`,
    };
  if (samples.some(({ value }) => typeof value !== typeof samples[0]?.value))
    return { ok: false, says: 'The values are numbers in some samples and bools in others.' };
  return { ok: true, input: { first, holds: tableShapes[table].holds, samples } };
}
