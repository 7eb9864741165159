import { conformant, f32, f64, i16, i32, i64, i8, lettersOf, struct, u16, u32, u64, u8, unique } from '../ndr/codec.js';
import type { Codec } from '../ndr/codec.js';
import type { NdrReader, NdrWriter } from '../ndr/streams.js';
import { millisOfDate } from './date.js';

/** Types of values (MS-OAUT 2.2.7). */
export const variantTypes = {
  empty: 0,
  null: 1,
  i2: 2,
  i4: 3,
  r4: 4,
  r8: 5,
  currency: 6,
  date: 7,
  text: 8,
  error: 10,
  bool: 11,
  variant: 12,
  decimal: 14,
  i1: 16,
  u1: 17,
  u2: 18,
  u4: 19,
  i8: 20,
  u8: 21,
  int: 22,
  uint: 23,
} as const;
export type VariantType = keyof typeof variantTypes;
const typeByNumber = new Map<number, VariantType>(
  Object.entries(variantTypes).map(([type, number]) => [number, type as VariantType]),
);
export const arrayFlag = 0x2000;
const byReference = 0x4000;

/** What type a number stands for, in words: `i4`, `r8`, `text[]`; unknown ones as they are. */
export function variantTypeName(number: number): string {
  const type = typeByNumber.get(number & 0xfff);
  return `${type ?? `type ${number & 0xfff}`}${(number & arrayFlag) !== 0 ? '[]' : ''}`;
}

/** A value that fits its type. Dates are in days since 1899-12-30; currency in ten-thousandths; errors are codes. */
export type Scalar = number | bigint | boolean | string | null;
export type Variant =
  | { readonly type: VariantType; readonly value: Scalar | Decimal | Variant }
  | { readonly type: VariantType; readonly array: readonly (Scalar | Variant)[]; readonly bounds: readonly Bound[] };
export interface Decimal {
  readonly scale: number;
  readonly isNegative: boolean;
  readonly high: number;
  readonly low: bigint;
}
export interface Bound {
  readonly count: number;
  readonly lowest: number;
}
export const emptyVariant: Variant = { type: 'empty', value: null };

/** FLAGGED_WORD_BLOB (MS-OAUT 2.2.23.1): a text with its length before it. */
const textBlob: Codec<string> = {
  align: 4,
  least: 12,
  none: '',
  write: (writer, value) => {
    const letters = Buffer.from(value, 'utf16le');
    writer.align(4);
    writer.u32(letters.length / 2);
    writer.u32(letters.length);
    writer.u32(letters.length / 2);
    writer.bytes(letters);
  },
  read: (reader) => {
    const most = reader.count(2);
    reader.skip(4);
    const count = reader.u32();
    if (count !== most) throw reader.fault('A text has another length than it says.');
    const value = lettersOf(reader, count);
    return () => value;
  },
};
const text: Codec<Scalar> = mapped(
  unique(textBlob),
  (value) => value ?? '',
  (value) => String(value ?? ''),
);
/** VARIANT_BOOL: 16 bits, all of them set where it is true. */
const shortBool: Codec<Scalar> = mapped(
  i16,
  (value) => value !== 0,
  (value) => (value === true ? -1 : 0),
);
const decimal = struct({ reserved: u16, scale: u8, sign: u8, high: u32, low: u64 });

function mapped<From, To>(codec: Codec<From>, to: (value: From) => To, from: (value: To) => From): Codec<To> {
  return {
    align: codec.align,
    least: codec.least,
    none: to(codec.none),
    write: (writer, value) => codec.write(writer, from(value)),
    read: (reader) => {
      const value = codec.read(reader);
      return () => to(value());
    },
  };
}
const numbers = (codec: Codec<number>): Codec<Scalar> => mapped<number, Scalar>(codec, (value) => value, Number);
const bigs = (codec: Codec<bigint>): Codec<Scalar> =>
  mapped<bigint, Scalar>(
    codec,
    (value) => value,
    (value) => BigInt(typeof value === 'number' || typeof value === 'bigint' ? value : 0),
  );

const scalars: Partial<Record<VariantType, Codec<Scalar>>> = {
  i1: numbers(i8),
  u1: numbers(u8),
  i2: numbers(i16),
  u2: numbers(u16),
  i4: numbers(i32),
  u4: numbers(u32),
  int: numbers(i32),
  uint: numbers(u32),
  error: numbers(u32),
  r4: numbers(f32),
  r8: numbers(f64),
  date: numbers(f64),
  i8: bigs(i64),
  u8: bigs(u64),
  currency: bigs(i64),
  bool: shortBool,
  text,
};

/** How elements lie in an array (MS-OAUT 2.2.30, SF types). */
const shapes: Partial<Record<VariantType, number>> = {
  i1: 16,
  u1: 16,
  i2: 2,
  u2: 2,
  bool: 2,
  i4: 3,
  u4: 3,
  int: 3,
  uint: 3,
  error: 3,
  r4: 3,
  i8: 20,
  u8: 20,
  r8: 20,
  date: 20,
  currency: 20,
  text: 8,
  variant: 12,
};
const elementOctets: Readonly<Record<number, number>> = { 16: 1, 2: 2, 3: 4, 20: 8, 8: 4, 12: 16 };
/** Features of arrays: of texts, of variants. */
const features: Readonly<Record<number, number>> = { 8: 0x0100, 12: 0x0800 };
const mostDimensions = 8;
const deepest = 4;

/** wireVARIANTStr (MS-OAUT 2.2.29.1), with what stands behind it. */
function bodyAt(depth: number): Codec<Variant> {
  return {
    align: 8,
    least: 20,
    none: emptyVariant,
    write: (writer, value) => writeBody(writer, value, depth),
    read: (reader) => readBody(reader, depth),
  };
}

function writeBody(writer: NdrWriter, variant: Variant, depth: number): void {
  if (depth > deepest) throw new Error('values lie too deep in one another');
  writer.align(8);
  const from = writer.at;
  const number = variantTypes[variant.type] | ('array' in variant ? arrayFlag : 0);
  writer.skip(8);
  writer.u16(number);
  writer.skip(6);
  writer.u32('array' in variant ? arrayFlag : number);
  if ('array' in variant) writeArray(writer, variant, depth);
  else writeValue(writer, variant, depth);
  writer.settle();
  writer.putU32(from, Math.ceil((writer.at - from) / 8));
}

function writeValue(
  writer: NdrWriter,
  { type, value }: { readonly type: VariantType; readonly value: Scalar | Decimal | Variant },
  depth: number,
): void {
  if (type === 'empty' || type === 'null') return;
  if (type === 'variant') return unique(bodyAt(depth + 1)).write(writer, value as Variant);
  if (type === 'decimal') {
    const { scale, isNegative, high, low } = value as Decimal;
    return decimal.write(writer, { reserved: 0, scale, sign: isNegative ? 0x80 : 0, high, low });
  }
  const codec = scalars[type];
  if (!codec) throw new Error(`values of type ${type} are not written`);
  codec.write(writer, value as Scalar);
}

function readBody(reader: NdrReader, depth: number): () => Variant {
  if (depth > deepest) throw reader.fault('Values lie too deep in one another.');
  reader.align(8);
  reader.skip(8);
  const number = reader.u16();
  reader.skip(6);
  const kind = reader.u32();
  const type = typeByNumber.get(number & 0xfff);
  if (type === undefined) throw reader.fault(`A value of type ${number & 0xfff}, which is not known.`);
  if ((number & byReference) !== 0 && reader.u32() === 0) throw reader.fault('A value by reference points nowhere.');
  if ((number & arrayFlag) !== 0) {
    if ((kind & arrayFlag) === 0) throw reader.fault('An array says that it is none.');
    return readArray(reader, type, depth);
  }
  if (type === 'empty' || type === 'null') return () => ({ type, value: null });
  if (type === 'variant') {
    const inner = unique(bodyAt(depth + 1)).read(reader);
    return () => ({ type, value: inner() });
  }
  if (type === 'decimal') {
    const read = decimal.read(reader)();
    return () => ({ type, value: { scale: read.scale, isNegative: read.sign !== 0, high: read.high, low: read.low } });
  }
  const codec = scalars[type];
  if (!codec) throw reader.fault(`A value of type ${type}, which is not read.`);
  const value = codec.read(reader);
  return () => ({ type, value: value() });
}

const elementsOf = (type: VariantType, depth: number): Codec<readonly (Scalar | Variant)[]> | null => {
  if (type === 'variant')
    return conformant(
      mapped(
        unique(bodyAt(depth + 1)),
        (value) => value ?? emptyVariant,
        (value) => value,
      ),
    ) as Codec<readonly (Scalar | Variant)[]>;
  const codec = scalars[type];
  return codec ? (conformant(codec) as Codec<readonly (Scalar | Variant)[]>) : null;
};

interface ArrayVariant {
  readonly type: VariantType;
  readonly array: readonly (Scalar | Variant)[];
  readonly bounds: readonly Bound[];
}

/** SAFEARRAY (MS-OAUT 2.2.30.10): two pointers, and behind them how many elements there are in which directions. */
function writeArray(writer: NdrWriter, { type, array, bounds }: ArrayVariant, depth: number): void {
  const shape = shapes[type];
  const elements = elementsOf(type, depth);
  if (shape === undefined || !elements) throw new Error(`arrays of type ${type} are not written`);
  writer.u32(writer.nextReferent());
  writer.u32(writer.nextReferent());
  writer.u32(bounds.length);
  writer.u16(bounds.length);
  writer.u16(features[shape] ?? 0x0080);
  writer.u32(elementOctets[shape] ?? 0);
  // Locks; above them the type, where the features say that it is told.
  writer.u32((variantTypes[type] << 16) >>> 0);
  writer.u32(shape);
  writer.u32(array.length);
  writer.u32(array.length > 0 ? writer.nextReferent() : 0);
  for (const { count, lowest } of bounds) {
    writer.u32(count);
    writer.u32(lowest >>> 0);
  }
  if (array.length > 0) elements.write(writer, array);
}

function readArray(reader: NdrReader, type: VariantType, depth: number): () => Variant {
  if (reader.u32() === 0 || reader.u32() === 0) return () => ({ type, array: [], bounds: [] });
  const count = reader.count(8);
  const dimensions = reader.u16();
  reader.skip(2);
  const octets = reader.u32();
  reader.skip(4);
  const shape = reader.u32();
  if (count !== dimensions || dimensions === 0 || dimensions > mostDimensions)
    throw reader.fault(`An array of ${dimensions} dimensions.`);
  const elements = elementsOf(type, depth);
  if (shape !== shapes[type] || !elements)
    throw reader.fault(`An array of ${type} whose elements are kept in shape ${shape}.`);
  if (octets > 16) throw reader.fault(`An array of elements of ${octets} octets.`);
  const length = reader.u32();
  const isThere = reader.u32() !== 0;
  const bounds = Array.from({ length: count }, () => ({ count: reader.u32(), lowest: reader.u32() | 0 }));
  if (bounds.reduce((product, bound) => product * bound.count, 1) !== length)
    throw reader.fault('The bounds of an array don’t fit its elements.');
  if (!isThere) return () => ({ type, array: [], bounds });
  const array = elements.read(reader);
  return () => {
    const read = array();
    return { type, array: read, bounds };
  };
}

/** A VARIANT as a parameter or a member: a pointer, and the value behind it. */
export const variant: Codec<Variant> = mapped(
  unique(bodyAt(0)),
  (value) => value ?? emptyVariant,
  (value) => value,
);

/** What a value is for people: texts as they are, dates in UTC, codes in hexadecimal, arrays in brackets. */
export function variantText(of: Variant): string {
  if ('array' in of) return `[${of.array.map((element) => elementText(of.type, element)).join(', ')}]`;
  return elementText(of.type, of.value);
}
export function elementText(type: VariantType, value: Scalar | Decimal | Variant): string {
  if (value === null) return '';
  if (type === 'date') {
    const millis = millisOfDate(Number(value));
    return millis === null ? String(value) : new Date(millis).toISOString();
  }
  if (type === 'currency' && typeof value === 'bigint') return decimalText(value < 0n, value < 0n ? -value : value, 4);
  if (type === 'error' && typeof value === 'number') return `0x${(value >>> 0).toString(16).padStart(8, '0')}`;
  if (typeof value !== 'object') return String(value);
  if ('type' in value) return variantText(value);
  return decimalText(value.isNegative, (BigInt(value.high) << 64n) | value.low, value.scale);
}
function decimalText(isNegative: boolean, whole: bigint, scale: number): string {
  const digits = String(whole).padStart(scale + 1, '0');
  const point = digits.length - scale;
  return `${isNegative ? '-' : ''}${digits.slice(0, point)}${scale > 0 ? `.${digits.slice(point)}` : ''}`;
}
