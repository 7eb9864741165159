import { readGuid, writeGuid, noGuid } from '../octets/guid.js';
import type { Guid } from '../octets/guid.js';
import type { NdrReader, NdrWriter } from './streams.js';

/** How something lies in NDR. Reading gives a function, since what pointers point to comes later. */
export interface Codec<Value> {
  /** Octets of alignment. */
  readonly align: number;
  /** Octets that it takes at least, without what it points to. */
  readonly least: number;
  /** What stands there when there is nothing to say, as in the answer of a method that failed. */
  readonly none: Value;
  write(writer: NdrWriter, value: Value): void;
  read(reader: NdrReader): () => Value;
}
export type ValueOf<Of> = Of extends Codec<infer Value> ? Value : never;

function simple<Value>(
  octets: number,
  none: Value,
  read: (reader: NdrReader) => Value,
  write: (writer: NdrWriter, value: Value) => void,
  align = octets,
): Codec<Value> {
  return {
    align,
    least: octets,
    none,
    write: (writer, value) => {
      writer.align(align);
      write(writer, value);
    },
    read: (reader) => {
      reader.align(align);
      const value = read(reader);
      return () => value;
    },
  };
}

type Numbers = Codec<number>;
export const u8: Numbers = simple(
  1,
  0,
  (reader) => reader.u8(),
  (writer, value) => writer.u8(value),
);
export const u16: Numbers = simple(
  2,
  0,
  (reader) => reader.u16(),
  (writer, value) => writer.u16(value),
);
export const u32: Numbers = simple(
  4,
  0,
  (reader) => reader.u32(),
  (writer, value) => writer.u32(value),
);
export const i8: Numbers = simple(
  1,
  0,
  (reader) => (reader.u8() << 24) >> 24,
  (writer, value) => writer.u8(value & 0xff),
);
export const i16: Numbers = simple(
  2,
  0,
  (reader) => (reader.u16() << 16) >> 16,
  (writer, value) => writer.u16(value & 0xffff),
);
export const i32: Numbers = simple(
  4,
  0,
  (reader) => reader.u32() | 0,
  (writer, value) => writer.u32(value >>> 0),
);
export const f32: Numbers = simple(
  4,
  0,
  (reader) => reader.f32(),
  (writer, value) => writer.f32(value),
);
export const f64: Numbers = simple(
  8,
  0,
  (reader) => reader.f64(),
  (writer, value) => writer.f64(value),
);
export const u64: Codec<bigint> = simple(
  8,
  0n,
  (reader) => reader.u64(),
  (writer, value) => writer.u64(value),
);
export const i64: Codec<bigint> = simple(
  8,
  0n,
  (reader) => reader.i64(),
  (writer, value) => writer.u64(BigInt.asUintN(64, value)),
);
/** BOOL: 32 bits, anything but 0 is true. */
export const bool: Codec<boolean> = simple(
  4,
  false,
  (reader) => reader.u32() !== 0,
  (writer, value) => writer.u32(value ? 1 : 0),
);
export const guid: Codec<Guid> = simple(16, noGuid, readGuid, writeGuid, 4);

/* eslint-disable @typescript-eslint/no-explicit-any -- a table of codecs, each of its own type */
type AnyFields = Readonly<Record<string, Codec<any>>>;
export type ValuesOf<Of extends AnyFields> = { readonly [Name in keyof Of]: ValueOf<Of[Name]> };

function noneOf<Of extends AnyFields>(entries: readonly (readonly [string, Codec<any>])[]): ValuesOf<Of> {
  return Object.fromEntries(entries.map(([name, codec]) => [name, codec.none])) as ValuesOf<Of>;
}

/** Members one after another, begun where the widest of them may begin (C706 14.3.3). */
export function struct<Of extends AnyFields>(fields: Of): Codec<ValuesOf<Of>> {
  const entries = Object.entries(fields);
  const align = Math.max(1, ...entries.map(([, codec]) => codec.align));
  return {
    align,
    least: entries.reduce((sum, [, codec]) => sum + codec.least, 0),
    none: noneOf<Of>(entries),
    write: (writer, values) => {
      writer.align(align);
      for (const [name, codec] of entries) codec.write(writer, values[name]);
    },
    read: (reader) => {
      reader.align(align);
      const parts = entries.map(([name, codec]) => [name, codec.read(reader)] as const);
      return () => Object.fromEntries(parts.map(([name, value]) => [name, value()])) as ValuesOf<Of>;
    },
  };
}

/** Parameters of an operation: each is followed by what it points to. */
export function parameters<Of extends AnyFields>(fields: Of): Codec<ValuesOf<Of>> {
  const entries = Object.entries(fields);
  return {
    align: 1,
    least: entries.reduce((sum, [, codec]) => sum + codec.least, 0),
    none: noneOf<Of>(entries),
    write: (writer, values) => {
      for (const [name, codec] of entries) {
        codec.write(writer, values[name]);
        writer.settle();
      }
    },
    read: (reader) => {
      const parts = entries.map(([name, codec]) => {
        const value = codec.read(reader);
        reader.settle();
        return [name, value()] as const;
      });
      const values = Object.fromEntries(parts) as ValuesOf<Of>;
      return () => values;
    },
  };
}
/* eslint-enable @typescript-eslint/no-explicit-any */

/** A unique or full pointer, or a reference to one: a referent, and what it points to later; null: it points nowhere. */
export function unique<Value>(to: Codec<Value>): Codec<Value | null> {
  return {
    align: 4,
    least: 4,
    none: null,
    write: (writer, value) => {
      writer.align(4);
      writer.u32(value === null ? 0 : writer.nextReferent());
      if (value !== null) writer.defer(() => to.write(writer, value));
    },
    read: (reader) => {
      reader.align(4);
      if (reader.u32() === 0) return () => null;
      let read: (() => Value) | null = null;
      reader.defer(() => (read = to.read(reader)));
      return () => {
        if (!read) throw new Error('a pointer was looked at before what it points to was read');
        return (read as () => Value)();
      };
    },
  };
}

function elements<Value>(of: Codec<Value>, reader: NdrReader, count: number): () => readonly Value[] {
  const parts = Array.from({ length: count }, () => of.read(reader));
  return () => parts.map((part) => part());
}

/** An array that says how many it has: `size_is` (C706 14.3.4.2). */
export function conformant<Value>(of: Codec<Value>): Codec<readonly Value[]> {
  return {
    align: Math.max(4, of.align),
    least: 4,
    none: [],
    write: (writer, values) => {
      writer.align(4);
      writer.u32(values.length);
      for (const value of values) of.write(writer, value);
    },
    read: (reader) => elements(of, reader, reader.count(of.least)),
  };
}

/** A part of an array: whoever reads has made room for so many, and gets these. */
export interface Part<Value> {
  readonly room: number;
  readonly part: readonly Value[];
}

/** An array of which a part is sent: `size_is` and `length_is` (C706 14.3.4.4). */
export function conformantVarying<Value>(of: Codec<Value>): Codec<Part<Value>> {
  return {
    align: Math.max(4, of.align),
    least: 12,
    none: { room: 0, part: [] },
    write: (writer, { room, part }) => {
      writer.align(4);
      writer.u32(room);
      writer.u32(0);
      writer.u32(part.length);
      for (const value of part) of.write(writer, value);
    },
    read: (reader) => {
      reader.align(4);
      const room = reader.u32();
      const offset = reader.u32();
      const count = reader.count(of.least);
      if (offset + count > room) throw reader.fault('A part of an array lies beyond its end.');
      const part = elements(of, reader, count);
      return () => ({ room, part: part() });
    },
  };
}

/** Octets, many of them: as `conformant(u8)`, without looking at each. */
export const octets: Codec<Uint8Array> = {
  align: 4,
  least: 4,
  none: new Uint8Array(),
  write: (writer, value) => {
    writer.align(4);
    writer.u32(value.length);
    writer.bytes(value);
  },
  read: (reader) => {
    const value = reader.bytes(reader.count(1)).slice();
    return () => value;
  },
};

/** A text of 16-bit letters that ends with a zero (C706 14.3.4.5). */
export const wideString: Codec<string> = {
  align: 4,
  least: 12,
  none: '',
  write: (writer, value) => {
    const letters = Buffer.from(value, 'utf16le');
    writer.align(4);
    writer.u32(letters.length / 2 + 1);
    writer.u32(0);
    writer.u32(letters.length / 2 + 1);
    writer.bytes(letters);
    writer.u16(0);
  },
  read: (reader) => {
    reader.align(4);
    const most = reader.u32();
    const offset = reader.u32();
    const count = reader.count(2);
    if (offset + count > most) throw reader.fault('A text lies beyond its end.');
    const value = lettersOf(reader, count);
    const end = value.indexOf('\0');
    return () => (end < 0 ? value : value.slice(0, end));
  },
};

/** So many 16-bit letters. */
export function lettersOf(reader: NdrReader, count: number): string {
  const letters = Buffer.from(reader.bytes(2 * count));
  return (reader.isLittleEndian ? letters : Buffer.from(letters).swap16()).toString('utf16le');
}

/** Writes a value and all that it points to. */
export function written<Value>(codec: Codec<Value>, value: Value, writer: NdrWriter): void {
  codec.write(writer, value);
  writer.settle();
}

/** Reads a value and all that it points to. */
export function whole<Value>(codec: Codec<Value>, reader: NdrReader): Value {
  const value = codec.read(reader);
  reader.settle();
  return value();
}
