import { dateOf } from '../automation/date.js';
import { variantTypes } from '../automation/variant.js';
import type { Variant } from '../automation/variant.js';
import type { RemoteObject } from '../dcom/client.js';
import { ComFailure, hasFailed } from '../dcom/interfaces.js';
import { carryOut, comInterface } from '../dcom/objects.js';
import type { ComInterface } from '../dcom/objects.js';
import { rightsOf, sampleOf } from './address-space.js';
import type { AddressSpace, SpaceItem } from './address-space.js';
import { opcErrors } from './errors.js';
import { itemProperties, opcIids } from './interfaces.js';

/** What a server tells of an item beside its value (Data Access 2.05a, 4.4.6). */
export interface ItemProperty {
  readonly id: number;
  readonly description: string;
  readonly value: Variant;
}

/** Properties whose numbers are the same at each server. */
export const propertyIds = {
  type: 1,
  value: 2,
  quality: 3,
  timestamp: 4,
  accessRights: 5,
  unit: 100,
  description: 101,
  highEu: 102,
  lowEu: 103,
} as const;
const mostProperties = 200;

/**
 * All properties of an item; those that the server can’t read just then are left out.
 * @throws {ComFailure} where there is no such item
 */
export async function readProperties(object: RemoteObject, itemId: string): Promise<readonly ItemProperty[]> {
  const told = await object.call(itemProperties.available, { itemId });
  const ids = (told.ids ?? []).slice(0, mostProperties);
  if (ids.length === 0) return [];
  const { values, errors } = await object.call(itemProperties.values, { itemId, count: ids.length, ids });
  return ids.flatMap((id, index) => {
    const value = values?.[index];
    if (!value || hasFailed(errors?.[index] ?? 0)) return [];
    return [{ id, description: told.descriptions?.[index] ?? '', value }];
  });
}

/** The interface of a server that tells properties of its items. */
export function propertiesOf(space: AddressSpace): ComInterface {
  const found = (itemId: string): SpaceItem => {
    const item = space.find(itemId);
    if (!item) throw new ComFailure(opcErrors.unknownItem);
    return item;
  };
  const each = <Told>(itemId: string, ids: readonly number[], tell: (property: ItemProperty) => Told, none: Told) => {
    const known = new Map(allOf(found(itemId)).map((property) => [property.id, property]));
    return ids.map((id) => {
      const property = known.get(id);
      return property ? { told: tell(property), error: 0 } : { told: none, error: opcErrors.unknownProperty };
    });
  };
  return comInterface(
    opcIids.itemProperties,
    carryOut(itemProperties.available, ({ itemId }) => {
      const all = allOf(found(itemId));
      return {
        count: all.length,
        ids: all.map(({ id }) => id),
        descriptions: all.map(({ description }) => description),
        types: all.map(({ value }) => variantTypes[value.type]),
      };
    }),
    carryOut(itemProperties.values, ({ itemId, ids }) => {
      const told = each<Variant>(itemId, ids, ({ value }) => value, { type: 'empty', value: null });
      return { values: told.map((one) => one.told), errors: told.map(({ error }) => error) };
    }),
    // No property is an item of its own here.
    carryOut(itemProperties.itemIdsOf, ({ itemId, ids }) => {
      found(itemId);
      return { itemIds: ids.map(() => null), errors: ids.map(() => opcErrors.unknownProperty) };
    }),
  );
}

function allOf(item: SpaceItem): readonly ItemProperty[] {
  const { sample } = sampleOf(item);
  return [
    { id: propertyIds.type, description: 'Canonical data type', value: { type: 'i2', value: variantTypes[item.type] } },
    ...(sample
      ? [
          { id: propertyIds.value, description: 'Value', value: sample.value },
          { id: propertyIds.quality, description: 'Quality', value: { type: 'i2', value: sample.quality } as const },
          {
            id: propertyIds.timestamp,
            description: 'Timestamp',
            value: { type: 'date', value: dateOf(sample.timestamp) } as const,
          },
        ]
      : []),
    { id: propertyIds.accessRights, description: 'Access rights', value: { type: 'i4', value: rightsOf(item) } },
    ...(item.properties ?? []),
  ];
}
