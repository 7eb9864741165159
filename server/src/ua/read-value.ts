import type { DataValue } from 'node-opcua-client';
import { DataType } from 'node-opcua-variant';

/** A value as people and facts see it. */
export interface ReadValue {
  readonly code: string;
  readonly value: string | null;
  readonly number: number | null;
  readonly dataType: string | null;
  readonly sourceTimestamp: string | null;
  readonly serverTimestamp: string | null;
}

/** A value as it came over the wire, in words and, where it is one, as a number. */
export function readValue(read: DataValue | undefined): ReadValue {
  const value: unknown = read?.value?.value;
  return {
    code: codeOf(read),
    value: value === undefined || value === null ? null : textOf(value, read?.value.dataType),
    number: numberOf(value, read?.value.dataType),
    dataType: read?.value ? (DataType[read.value.dataType] ?? null) : null,
    sourceTimestamp: read?.sourceTimestamp?.toISOString() ?? null,
    serverTimestamp: read?.serverTimestamp?.toISOString() ?? null,
  };
}

/** The code alone: what its info bits say of the value beside it stands behind a mark in its name (Part 4 §7.39.1). */
function codeOf(read: DataValue | undefined): string {
  const name = read?.statusCode.name ?? 'BadUnexpectedError';
  const mark = name.indexOf('#');
  return mark < 0 ? name : name.slice(0, mark);
}

/** Longer texts are cut. */
export const longestText = 200;
const mostElements = 16;

/** A 64-bit number comes as two halves of 32 bits. */
function wholeOf(value: unknown, dataType: DataType | undefined): bigint | null {
  if (dataType !== DataType.Int64 && dataType !== DataType.UInt64) return null;
  if (!Array.isArray(value) || value.length !== 2) return null;
  const [high, low] = value as [unknown, unknown];
  if (typeof high !== 'number' || typeof low !== 'number') return null;
  const bits = (BigInt(high >>> 0) << 32n) | BigInt(low >>> 0);
  return dataType === DataType.Int64 ? BigInt.asIntN(64, bits) : bits;
}

function numberOf(value: unknown, dataType: DataType | undefined): number | null {
  if (typeof value === 'number') return value;
  const whole = wholeOf(value, dataType);
  return whole === null ? null : Number(whole);
}

/** Structures are told by their fields; node ids, names and the like know their usual text. */
export function textOf(value: unknown, dataType: DataType | undefined): string {
  if (value instanceof Date) return value.toISOString();
  const whole = wholeOf(value, dataType);
  if (whole !== null) return String(whole);
  if (ArrayBuffer.isView(value) || Array.isArray(value))
    return Array.from(value as ArrayLike<unknown>)
      .slice(0, mostElements)
      .map((one) => textOf(one, dataType))
      .join(', ')
      .slice(0, longestText);
  return (dataType === DataType.ExtensionObject ? JSON.stringify(value) : String(value)).slice(0, longestText);
}
