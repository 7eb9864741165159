import { sayCode } from '@loyal-hinge/core';
import type { TypedElement } from '@loyal-hinge/core';
import type { BenchShape } from '@loyal-hinge/contract';
import {
  arrayFlag,
  dateOf,
  elementText,
  goodQuality,
  hasFailed,
  qualityWords,
  variantText,
  variantTypes,
} from '@loyal-hinge/classic';
import type { ItemValue, Scalar, Variant, VariantType } from '@loyal-hinge/classic';
import type { ReadValue } from '../../ua/read-value.js';

/** What types of values are called: as a person types them (Part 6 §5.1.2), and in Automation (MS-OAUT 2.2.7). */
const types: Readonly<Record<VariantType, readonly [typed: string, name: string]>> = {
  empty: ['empty', 'VT_EMPTY'],
  null: ['null', 'VT_NULL'],
  i1: ['SByte', 'VT_I1'],
  u1: ['Byte', 'VT_UI1'],
  i2: ['Int16', 'VT_I2'],
  u2: ['UInt16', 'VT_UI2'],
  i4: ['Int32', 'VT_I4'],
  u4: ['UInt32', 'VT_UI4'],
  int: ['Int32', 'VT_INT'],
  uint: ['UInt32', 'VT_UINT'],
  i8: ['Int64', 'VT_I8'],
  u8: ['UInt64', 'VT_UI8'],
  r4: ['Float', 'VT_R4'],
  r8: ['Double', 'VT_R8'],
  bool: ['Boolean', 'VT_BOOL'],
  text: ['String', 'VT_BSTR'],
  date: ['DateTime', 'VT_DATE'],
  currency: ['currency', 'VT_CY'],
  decimal: ['decimal', 'VT_DECIMAL'],
  error: ['error code', 'VT_ERROR'],
  variant: ['variant', 'VT_VARIANT'],
};
const typeByNumber = new Map<number, VariantType>(
  Object.entries(variantTypes).map(([type, number]) => [number, type as VariantType]),
);

/** The name by which a person types values of a type. */
export const typedName = (type: VariantType): string => types[type][0];

/** `VT_R8`, `VT_I4 array`; unknown ones by their number. */
export function typeName(number: number): string {
  const type = typeByNumber.get(number & 0xfff);
  return `${type ? types[type][1] : `type ${number & 0xfff}`}${(number & arrayFlag) === 0 ? '' : ' array'}`;
}
export const typeNumber = (variant: Variant): number =>
  variantTypes[variant.type] | ('array' in variant ? arrayFlag : 0);

const longestText = 200;
const mostElements = 500;

/** `Good`, or a quality or a code in words. */
export function codeWords({ error, quality }: Pick<ItemValue, 'error' | 'quality'>): string {
  if (hasFailed(error)) return `Bad: ${sayCode(error)}`;
  if (quality === goodQuality) return 'Good';
  const words = qualityWords(quality);
  return `${words.charAt(0).toUpperCase()}${words.slice(1)}`;
}

/** A value as people and facts see it. Data Access has one time for a value: its source’s, or its server’s where the source tells none. */
export function readClassicValue(read: ItemValue): ReadValue {
  const { value, timestamp, error } = read;
  const isThere = !hasFailed(error) && value.type !== 'empty' && value.type !== 'null';
  return {
    code: codeWords(read),
    value: isThere ? variantText(value).slice(0, longestText) : null,
    number: isThere ? numberIn(value) : null,
    dataType: isThere ? typeName(typeNumber(value)) : null,
    sourceTimestamp: timestamp === null ? null : new Date(timestamp).toISOString(),
    serverTimestamp: null,
  };
}

function numberIn(value: Variant): number | null {
  if ('array' in value || value.type === 'date' || value.type === 'error') return null;
  if (value.type === 'currency' || value.type === 'decimal') return Number(variantText(value));
  return typeof value.value === 'number' || typeof value.value === 'bigint' ? Number(value.value) : null;
}

/** A switch, a list, or as it is. */
export function shapeOfClassic(value: Variant): BenchShape {
  if ('array' in value) {
    const elements = value.array
      .slice(0, mostElements)
      .map((one) => elementText(value.type, one).slice(0, longestText));
    return { kind: 'list', count: value.array.length, elements };
  }
  return value.type === 'bool' ? { kind: 'switch', isOn: value.value === true } : { kind: 'plain' };
}

/** A value as it is typed: a list has an element a line. null: there is none. */
export function shownToType(value: Variant): string | null {
  if (value.type === 'empty' || value.type === 'null') return null;
  return 'array' in value ? value.array.map((one) => elementText(value.type, one)).join('\n') : variantText(value);
}

/** Elements that somebody typed, in the type of a value. */
export function variantOfTyped(like: Variant, elements: readonly TypedElement[]): Variant {
  const { type } = like;
  const scalars = elements.map((element) => scalarOf(type, element));
  if ('array' in like)
    return { type, array: scalars, bounds: [{ count: scalars.length, lowest: like.bounds[0]?.lowest ?? 0 }] };
  return { type, value: scalars[0] ?? null };
}

function scalarOf(type: VariantType, element: TypedElement): Scalar {
  if (element instanceof Date) return dateOf(element.getTime());
  return typeof element === 'bigint' && type !== 'i8' && type !== 'u8' ? Number(element) : element;
}
