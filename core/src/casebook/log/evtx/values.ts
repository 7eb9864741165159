import { hexOf } from '../../../trust/x509/der.js';
import { readSidBytes } from '../../../dcom/sid.js';

/** Kinds of values in binary XML (MS-EVEN6 §2.2.12, BinXml types). */
export const valueTypes = {
  nothing: 0x00,
  text: 0x01,
  ansi: 0x02,
  i8: 0x03,
  u8: 0x04,
  i16: 0x05,
  u16: 0x06,
  i32: 0x07,
  u32: 0x08,
  i64: 0x09,
  u64: 0x0a,
  f32: 0x0b,
  f64: 0x0c,
  bool: 0x0d,
  binary: 0x0e,
  guid: 0x0f,
  size: 0x10,
  fileTime: 0x11,
  systemTime: 0x12,
  sid: 0x13,
  hex32: 0x14,
  hex64: 0x15,
  binaryXml: 0x21,
} as const;
export const arrayFlag = 0x80;

const utf16 = new TextDecoder('utf-16le');
const ansi = new TextDecoder('windows-1252');

/** Text of two bytes a letter, without the zeros behind it. */
export const wideText = (bytes: Uint8Array): string => utf16.decode(bytes).replace(/\0+$/, '');

/** 100 nanoseconds since 1601, as ISO 8601 with seven digits (MS-DTYP 2.3.3). */
export function fileTimeText(ticks: bigint): string {
  const milliseconds = Number(ticks / 10_000n - 11_644_473_600_000n);
  if (Math.abs(milliseconds) > 8.64e15) return '';
  const rest = String(ticks % 10_000_000n).padStart(7, '0');
  return `${new Date(milliseconds).toISOString().slice(0, -5)}.${rest}Z`;
}

const sizes: Readonly<Record<number, number>> = {
  [valueTypes.i8]: 1,
  [valueTypes.u8]: 1,
  [valueTypes.i16]: 2,
  [valueTypes.u16]: 2,
  [valueTypes.i32]: 4,
  [valueTypes.u32]: 4,
  [valueTypes.i64]: 8,
  [valueTypes.u64]: 8,
  [valueTypes.f32]: 4,
  [valueTypes.f64]: 8,
  [valueTypes.bool]: 4,
  [valueTypes.guid]: 16,
  [valueTypes.fileTime]: 8,
  [valueTypes.systemTime]: 16,
  [valueTypes.hex32]: 4,
  [valueTypes.hex64]: 8,
};
const mostItems = 4096;

/** A value as Windows writes it in XML. A value of another size than its type has reads as its bytes. */
export function valueText(type: number, bytes: Uint8Array): string {
  const size = sizes[type];
  if (bytes.length === 0 || type === valueTypes.nothing) return '';
  if (size !== undefined && bytes.length < size) return hexOf(bytes);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  switch (type) {
    case valueTypes.text:
      return wideText(bytes);
    case valueTypes.ansi:
      return ansi.decode(bytes).replace(/\0+$/, '');
    case valueTypes.i8:
      return String(view.getInt8(0));
    case valueTypes.u8:
      return String(view.getUint8(0));
    case valueTypes.i16:
      return String(view.getInt16(0, true));
    case valueTypes.u16:
      return String(view.getUint16(0, true));
    case valueTypes.i32:
      return String(view.getInt32(0, true));
    case valueTypes.u32:
      return String(view.getUint32(0, true));
    case valueTypes.i64:
      return String(view.getBigInt64(0, true));
    case valueTypes.u64:
      return String(view.getBigUint64(0, true));
    case valueTypes.f32:
      return String(view.getFloat32(0, true));
    case valueTypes.f64:
      return String(view.getFloat64(0, true));
    case valueTypes.bool:
      return view.getUint32(0, true) === 0 ? 'false' : 'true';
    case valueTypes.guid:
      return guidText(view);
    case valueTypes.fileTime:
      return fileTimeText(view.getBigUint64(0, true));
    case valueTypes.systemTime:
      return systemTimeText(view);
    case valueTypes.sid: {
      const sid = readSidBytes(bytes, 0);
      return sid.ok ? sid.value.sid : hexOf(bytes);
    }
    case valueTypes.hex32:
      return `0x${view.getUint32(0, true).toString(16)}`;
    case valueTypes.hex64:
      return `0x${view.getBigUint64(0, true).toString(16)}`;
    case valueTypes.size:
      return bytes.length === 8 ? `0x${view.getBigUint64(0, true).toString(16)}` : hexOf(bytes);
    default:
      return hexOf(bytes);
  }
}

/** The values of an array, each as text. */
export function arrayTexts(type: number, bytes: Uint8Array): readonly string[] {
  if (type === valueTypes.text) return wideText(bytes).split('\0').slice(0, mostItems);
  const size = sizes[type];
  if (size === undefined) return [hexOf(bytes)];
  const count = Math.min(Math.floor(bytes.length / size), mostItems);
  return Array.from({ length: count }, (_, index) => valueText(type, bytes.subarray(index * size, (index + 1) * size)));
}

function guidText(view: DataView): string {
  const word = (value: number, digits: number): string => value.toString(16).padStart(digits, '0');
  const rest = Array.from({ length: 8 }, (_, index) => word(view.getUint8(8 + index), 2)).join('');
  const text = `${word(view.getUint32(0, true), 8)}-${word(view.getUint16(4, true), 4)}-${word(view.getUint16(6, true), 4)}-${rest.slice(0, 4)}-${rest.slice(4)}`;
  return `{${text.toUpperCase()}}`;
}

function systemTimeText(view: DataView): string {
  const [year, month, , day, hour, minute, second, millisecond] = Array.from({ length: 8 }, (_, index) =>
    view.getUint16(index * 2, true),
  ) as [number, number, number, number, number, number, number, number];
  const pad = (value: number, digits = 2): string => String(value).padStart(digits, '0');
  return `${pad(year, 4)}-${pad(month)}-${pad(day)}T${pad(hour)}:${pad(minute)}:${pad(second)}.${pad(millisecond, 3)}Z`;
}
