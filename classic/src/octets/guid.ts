import type { OctetReader } from './reader.js';
import type { OctetWriter } from './writer.js';

/** A UUID, an interface’s, a class’s or an object’s: in small letters, without braces. */
export type Guid = string;

const form = /^\{?([0-9a-f]{8})-([0-9a-f]{4})-([0-9a-f]{4})-([0-9a-f]{4})-([0-9a-f]{12})\}?$/i;

/** The same in its usual form; null: it is none. */
export function usualGuid(text: string): Guid | null {
  const parts = form.exec(text.trim());
  return parts && parts.slice(1).join('-').toLowerCase();
}

export const noGuid: Guid = '00000000-0000-0000-0000-000000000000';

const hex = (octets: Uint8Array): string => Buffer.from(octets).toString('hex');
const digits = (value: number, length: number): string => value.toString(16).padStart(length, '0');

/** Three numbers in the order of octets of whoever writes, then eight octets as they are (C706 A.1, MS-DTYP 2.3.4.2). */
export function readGuid(reader: OctetReader): Guid {
  const head = [digits(reader.u32(), 8), digits(reader.u16(), 4), digits(reader.u16(), 4)];
  return [...head, hex(reader.bytes(2)), hex(reader.bytes(6))].join('-');
}

export function writeGuid(writer: OctetWriter, guid: Guid): void {
  const parts = form.exec(guid);
  if (!parts) throw new Error(`no UUID: ${guid}`);
  const [, first = '', second = '', third = '', fourth = '', fifth = ''] = parts;
  writer.u32(parseInt(first, 16));
  writer.u16(parseInt(second, 16));
  writer.u16(parseInt(third, 16));
  writer.bytes(Buffer.from(fourth + fifth, 'hex'));
}
