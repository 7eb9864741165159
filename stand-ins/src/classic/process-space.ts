import type { AddressSpace, ItemProperty, Sample, SpaceItem, Variant, VariantType } from '@loyal-hinge/classic';
import { goodQuality, opcErrors, propertyIds } from '@loyal-hinge/classic';
import type { Polled } from '../marrowby/field.js';

/** An item of a classic stand-in. */
export interface ClassicItem {
  readonly itemId: string;
  readonly type: VariantType;
  readonly canWrite?: boolean;
  readonly canRead?: boolean;
  /** What it is at a time, in milliseconds since 1970; absent: what was written last. */
  readonly at?: (now: number) => number | string | boolean;
  readonly first?: number | string | boolean;
  readonly quality?: number;
  readonly unit?: string;
  /** Engineering range; values out of it are refused. */
  readonly range?: readonly [low: number, high: number];
  readonly about?: string;
  /** It says that its value is so old. */
  readonly ageMs?: number;
  /** The registers that it is read from; absent: it is made up here. */
  readonly polled?: Polled | undefined;
}

/** Data Access 6.8: bad, since the device does not answer. */
const communicationFailure = 0x18;

/** A value that goes up and down around a mean, the same for whoever asks at the same time. */
export const swinging =
  (mean: number, swing: number, periodMs: number) =>
  (now: number): number =>
    Number((mean + swing * Math.sin((2 * Math.PI * now) / periodMs)).toFixed(2));

/**
 * The items of a made-up server: values go on by the clock, and keep what is written.
 * @param ofDevice what the device behind an item says; null: nothing
 */
export function processSpace(
  items: readonly ClassicItem[],
  isFlat: boolean,
  now: () => number,
  ofDevice: (itemId: string) => number | null = () => null,
): AddressSpace {
  const written = new Map<string, { readonly value: Variant; readonly at: number }>();
  const begun = now();
  const space = items.map((item): SpaceItem => ({
    itemId: item.itemId,
    type: item.type,
    canRead: item.canRead ?? true,
    canWrite: item.canWrite ?? false,
    read: (): Sample => {
      if (item.polled) {
        const value = ofDevice(item.itemId);
        return {
          value: { type: item.type, value: value ?? 0 },
          quality: value === null ? communicationFailure : goodQuality,
          timestamp: now(),
        };
      }
      const kept = written.get(item.itemId);
      const value = item.at ? item.at(now()) : (item.first ?? 0);
      const timestamp = kept?.at ?? (item.at ? now() : begun);
      return {
        value: kept?.value ?? { type: item.type, value },
        quality: item.quality ?? goodQuality,
        timestamp: timestamp - (item.ageMs ?? 0),
      };
    },
    properties: propertiesOf(item),
    write: (value) => {
      const taken = as(item.type, value);
      if (!taken) return opcErrors.badType;
      if (!isWithin(item.range, taken)) return opcErrors.outOfRange;
      written.set(item.itemId, { value: taken, at: now() });
      return 0;
    },
  }));
  const byId = new Map(space.map((item) => [item.itemId, item]));
  const all = items.map(({ itemId }) => itemId);
  return {
    isFlat,
    find: (itemId) => byId.get(itemId) ?? null,
    all: () => all,
    within: (path) => withinPath(all, path),
  };
}

function propertiesOf({ unit, about, range }: ClassicItem): readonly ItemProperty[] {
  const number = (id: number, description: string, value: number): ItemProperty => ({
    id,
    description,
    value: { type: 'r8', value },
  });
  const text = (id: number, description: string, value: string): ItemProperty => ({
    id,
    description,
    value: { type: 'text', value },
  });
  return [
    ...(unit === undefined ? [] : [text(propertyIds.unit, 'EU units', unit)]),
    ...(about === undefined ? [] : [text(propertyIds.description, 'Item description', about)]),
    ...(range ? [number(propertyIds.highEu, 'High EU', range[1]), number(propertyIds.lowEu, 'Low EU', range[0])] : []),
  ];
}

const isWithin = (range: ClassicItem['range'], value: Variant): boolean =>
  !range ||
  !('value' in value) ||
  typeof value.value !== 'number' ||
  (value.value >= range[0] && value.value <= range[1]);

/** Names are parted by points. */
function withinPath(all: readonly string[], path: readonly string[]) {
  const start = path.map((name) => `${name}.`).join('');
  const below = all.filter((itemId) => itemId.startsWith(start)).map((itemId) => itemId.slice(start.length));
  if (path.length > 0 && below.length === 0) return null;
  const branches = [...new Set(below.flatMap((rest) => (rest.includes('.') ? (rest.split('.')[0] ?? []) : [])))];
  const items = below.filter((rest) => !rest.includes('.')).map((name) => ({ name, itemId: `${start}${name}` }));
  return { branches, items };
}

const numbers: readonly VariantType[] = ['i1', 'u1', 'i2', 'u2', 'i4', 'u4', 'int', 'uint', 'r4', 'r8'];

/** A value in the type of an item; null: it is none of it. */
function as(type: VariantType, value: Variant): Variant | null {
  if (!('value' in value)) return null;
  if (value.type === type) return value;
  if (numbers.includes(type) && typeof value.value === 'number') return { type, value: value.value };
  return null;
}
