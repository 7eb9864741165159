import { readAddress, writeAddress } from './modbus/addresses.js';
import type { AddressConvention } from './modbus/addresses.js';
import { placesInTable, tableShapes } from './modbus/tables.js';
import type { ModbusTable } from './modbus/tables.js';
import { wordsOf } from './value-form.js';
import type { ValueForm } from './value-form.js';

/** Where the value of a server’s item comes from: a register of a device, and how the value lies in it. */
export interface ItemOrigin {
  /** The machine of the plant that is the device. */
  readonly deviceId: string;
  readonly port: number;
  readonly unit: number;
  readonly table: ModbusTable;
  /** As the device’s papers write it. */
  readonly address: string;
  readonly convention: AddressConvention;
  readonly form: ValueForm;
  /** How far server and device may be apart; null: as far as rounding goes. */
  readonly within: number | null;
}

export interface OriginFault {
  readonly field: 'address' | 'type' | 'bits' | 'scale';
  readonly says: string;
}

/** What contradicts itself in an origin; null: nothing does. */
export function originFault({ table, address, convention, form }: ItemOrigin): OriginFault | null {
  const { holds, one } = tableShapes[table];
  if (holds === 'bits' && form.type !== 'bool') return { field: 'type', says: `A ${one} is a bit: its type is bool.` };
  const read = readAddress(address, table, convention);
  if (!read.ok) return { field: 'address', says: read.says };
  if (read.place + wordsOf(form) > placesInTable)
    return { field: 'address', says: `The value would end beyond the last ${one}.` };
  const { bits, type, scale } = form;
  if (bits) {
    if (holds === 'bits') return { field: 'bits', says: `A ${one} is one bit: it has no others.` };
    if (!/int|bool/.test(type)) return { field: 'bits', says: 'Bits are taken of integers and bools alone.' };
    if (bits.from + bits.count > wordsOf(form) * 16) return { field: 'bits', says: 'The value has no such bits.' };
    if (type === 'bool' && bits.count > 1) return { field: 'bits', says: 'A bool is one bit.' };
  }
  return scale === 0 ? { field: 'scale', says: 'A scale of 0 would make every value 0.' } : null;
}

/** Where an origin begins, on the wire, from 0. Origins are judged before they are kept. */
export function placeOf({ table, address, convention }: ItemOrigin): number {
  const read = readAddress(address, table, convention);
  return read.ok ? read.place : 0;
}

/** A run of places that the plant’s items come from, and what of it is stated twice. */
export interface OriginAt {
  readonly path: string;
  readonly origin: ItemOrigin;
}

/** Origins at one device that share a register and are not the same, or bits of it: one of them is most likely mistyped. */
export function overlappingOrigins(
  origins: readonly OriginAt[],
): readonly { readonly path: string; readonly with: string }[] {
  const runs = origins
    .map((one) => {
      const from = placeOf(one.origin);
      const { deviceId, port, unit, table } = one.origin;
      return { ...one, from, to: from + wordsOf(one.origin.form), where: `${deviceId} ${port} ${unit} ${table}` };
    })
    .sort((left, right) => (left.where < right.where ? -1 : left.where > right.where ? 1 : left.from - right.from));
  const found: { path: string; with: string }[] = [];
  runs.forEach((run, index) => {
    for (let at = index + 1; at < runs.length; at += 1) {
      const other = runs[at];
      if (!other || other.where !== run.where || other.from >= run.to) return;
      const isSame = other.from === run.from && other.to === run.to;
      if (isSame && (run.origin.form.bits || other.origin.form.bits || run.origin.form.type === other.origin.form.type))
        continue;
      found.push({ path: other.path, with: run.path });
    }
  });
  return found;
}

/** Many items at once: `{n}` in a path stands for a number, with which the address moves on. */
export interface OriginPattern {
  readonly path: string;
  readonly from: number;
  readonly to: number;
  /** By how many places from one number to the next. */
  readonly step: number;
  /** Of the first. */
  readonly origin: ItemOrigin;
}
export const mostInPattern = 500;

export function originsOfPattern({ path, from, to, step, origin }: OriginPattern): readonly OriginAt[] | string {
  if (!path.includes('{n}')) return 'Write {n} where the number is, as in Lehr/Zone {n}/Temperature.';
  if (to < from) return 'The last number is below the first.';
  if (to - from >= mostInPattern) return `At most ${mostInPattern} items at once.`;
  const first = placeOf(origin);
  const all = Array.from({ length: to - from + 1 }, (_, index) => ({
    path: path.replaceAll('{n}', String(from + index)),
    origin: { ...origin, address: writeAddress(first + index * step, origin.table, origin.convention) },
  }));
  const fault = all.map((one) => originFault(one.origin)).find((one) => one !== null);
  return fault ? fault.says : all;
}
