import { dateOf, hresults, millisOfDate, opcErrors } from '@loyal-hinge/classic';
import type { Variant, VariantType } from '@loyal-hinge/classic';
import { statusOfQuality } from '@loyal-hinge/core';
import type { SourceValue } from '../source.js';

/** Types of classic values (MS-OAUT 2.2.7) and built-in types of UA (Part 6 §5.1.2), as they stand for one another. */
const pairs: readonly (readonly [VariantType, string])[] = [
  ['bool', 'Boolean'],
  ['i1', 'SByte'],
  ['u1', 'Byte'],
  ['i2', 'Int16'],
  ['u2', 'UInt16'],
  ['i4', 'Int32'],
  ['int', 'Int32'],
  ['u4', 'UInt32'],
  ['uint', 'UInt32'],
  ['r4', 'Float'],
  ['r8', 'Double'],
  ['currency', 'Double'],
  ['text', 'String'],
  ['date', 'DateTime'],
];
const currencyParts = 10_000;

/** The built-in type of a classic one; null: none stands for it. */
export const builtInOf = (type: VariantType): string | null => pairs.find(([each]) => each === type)?.[1] ?? null;
/** The classic type of a built-in one; null: none stands for it. */
export const variantTypeOf = (type: string | null): VariantType | null =>
  pairs.find(([, each]) => each === type)?.[0] ?? null;

/** A value as a classic server told it. What no built-in type stands for is bad. */
export function valueOfClassic(value: Variant, quality: number, timestamp: number | null): SourceValue {
  const type = builtInOf(value.type);
  const status = statusOfQuality(quality);
  const plain =
    'array' in value ? value.array.map((each) => plainOf(value.type, each)) : plainOf(value.type, value.value);
  return type === null || plain === undefined
    ? { value: null, type: null, status: status >>> 30 === 0 ? 0x8074_0000 : status, sourceTime: timestamp, raw: null }
    : { value: plain, type, status, sourceTime: timestamp, raw: null };
}

function plainOf(type: VariantType, value: unknown): unknown {
  if (type === 'date') {
    const millis = typeof value === 'number' ? millisOfDate(value) : null;
    return millis === null ? undefined : new Date(millis);
  }
  if (type === 'currency') return Number(value) / currencyParts;
  return typeof value === 'bigint' ? Number(value) : value;
}

/** A value as it is written to a classic item; null: it has none of this type. */
export function classicOf(value: unknown, type: VariantType): Variant | null {
  if (type === 'bool') return typeof value === 'boolean' ? { type, value } : null;
  if (type === 'text') return typeof value === 'string' ? { type, value } : null;
  if (type === 'date') return value instanceof Date ? { type, value: dateOf(value.getTime()) } : null;
  if (typeof value !== 'number' || builtInOf(type) === null || type === 'currency') return null;
  return { type, value };
}

/** What a classic code means as a status code, by its name. */
export function statusNameOf(code: number): string {
  switch (code >>> 0) {
    case 0:
    case opcErrors.clamped:
      return 'Good';
    case opcErrors.badRights:
      return 'BadNotWritable';
    case opcErrors.badType:
      return 'BadTypeMismatch';
    case opcErrors.outOfRange:
      return 'BadOutOfRange';
    case opcErrors.unknownItem:
    case opcErrors.invalidItem:
    case opcErrors.invalidHandle:
      return 'BadNodeIdUnknown';
    case hresults.accessDenied:
      return 'BadUserAccessDenied';
    default:
      return 'Bad';
  }
}

/** A status code by its name, as the code of a classic answer. */
export function classicCodeOf(name: string): number {
  switch (name) {
    case 'Good':
      return 0;
    case 'BadNotWritable':
    case 'BadUserAccessDenied':
      return opcErrors.badRights;
    case 'BadTypeMismatch':
      return opcErrors.badType;
    case 'BadOutOfRange':
      return opcErrors.outOfRange;
    default:
      return hresults.fail;
  }
}
