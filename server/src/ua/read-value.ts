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
    code: read?.statusCode.name ?? 'BadUnexpectedError',
    value: value === undefined || value === null ? null : textOf(value, read?.value.dataType),
    number: typeof value === 'number' ? value : null,
    dataType: read?.value ? (DataType[read.value.dataType] ?? null) : null,
    sourceTimestamp: read?.sourceTimestamp?.toISOString() ?? null,
    serverTimestamp: read?.serverTimestamp?.toISOString() ?? null,
  };
}

/** Longer texts are cut. */
export const longestText = 200;
const mostElements = 16;

/** Structures are told by their fields; node ids, names and the like know their usual text. */
function textOf(value: unknown, dataType: DataType | undefined): string {
  if (value instanceof Date) return value.toISOString();
  if (ArrayBuffer.isView(value) || Array.isArray(value))
    return Array.from(value as ArrayLike<unknown>)
      .slice(0, mostElements)
      .map((one) => textOf(one, dataType))
      .join(', ')
      .slice(0, longestText);
  return (dataType === DataType.ExtensionObject ? JSON.stringify(value) : String(value)).slice(0, longestText);
}
