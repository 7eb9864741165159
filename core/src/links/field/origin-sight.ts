import { compareOrigin } from '../../field/compare-origin.js';
import type { Explanation, OriginComparison } from '../../field/compare-origin.js';
import { writeAddress } from '../../field/modbus/addresses.js';
import { tableShapes } from '../../field/modbus/tables.js';
import { sayForm } from '../../field/value-form.js';
import type { FieldValue, ValueForm } from '../../field/value-form.js';
import type { FactBook, FactOf } from '../facts.js';
import type { FieldOriginFact } from './facts.js';

/** What is known of one item’s value behind the server. */
export interface OriginSight {
  readonly origin: FactOf<'field-origin'>;
  readonly compared: FactOf<'field-compared'>;
  readonly comparison: OriginComparison;
}

/** The items that were compared with their registers. */
export const comparedOrigins = (facts: FactBook): readonly OriginSight[] =>
  facts.all('field-origin').flatMap((origin) => {
    const compared = facts.all('field-compared').findLast(({ path }) => path === origin.path);
    if (!compared) return [];
    const { place, form, within } = origin;
    return [
      {
        origin,
        compared,
        comparison: compareOrigin({ first: compared.first, place, form, within, samples: compared.samples }),
      },
    ];
  });

/** `holding register 40108`, as the papers of the device have it. */
export const sayPlace = ({ table, convention }: Pick<FieldOriginFact, 'table' | 'convention'>, place: number): string =>
  `${tableShapes[table].one} ${writeAddress(place, table, convention)}`;

/** `unit 3, holding register 40108, float, low word first`. */
export const sayOrigin = (origin: FieldOriginFact, place = origin.place, form: ValueForm = origin.form): string =>
  `unit ${origin.unit}, ${sayPlace(origin, place)}, ${sayForm(form)}`;

/** What a server reads instead of an origin. */
export const sayReadAs = (origin: FieldOriginFact, explained: Explanation): string =>
  explained.what === 'place' ? sayOrigin(origin, explained.place) : sayOrigin(origin, origin.place, explained.form);

/** A value of a device or a server, with no more digits than a float has. */
export const sayValue = (value: FieldValue): string =>
  typeof value === 'number'
    ? String(Number(value.toPrecision(7)))
    : typeof value === 'boolean'
      ? value
        ? 'on'
        : 'off'
      : String(value);

/** Devices that items come from, each once. */
export const devicesOf = (facts: FactBook): readonly FactOf<'field-origin'>[] => {
  const seen = new Set<string>();
  return facts.all('field-origin').filter(({ deviceId, port }) => {
    const key = `${deviceId}:${port}`;
    if (seen.has(key)) return false;
    seen.add(key);
    return true;
  });
};

/** An item’s value at the server beside the one at its device, as a check saw them. */
export interface ValuesBehind {
  readonly path: string;
  readonly served: string;
  readonly atDevice: string;
  readonly agrees: boolean;
  /** What the server reads now and what it should, where that is what makes the difference; null: it isn’t, or nobody knows. */
  readonly mapping: { readonly before: string; readonly after: string } | null;
}

export const valuesBehind = (facts: FactBook): readonly ValuesBehind[] =>
  comparedOrigins(facts).flatMap(({ origin, comparison }) =>
    comparison.outcome === 'untold'
      ? []
      : {
          path: origin.path,
          served: sayValue(comparison.value),
          atDevice: sayValue(comparison.device),
          agrees: comparison.outcome === 'agrees',
          mapping:
            comparison.outcome === 'differs' && comparison.explained
              ? { before: sayReadAs(origin, comparison.explained), after: sayOrigin(origin) }
              : null,
        },
  );
