import { placesInTable, tableShapes } from './tables.js';
import type { ModbusTable } from './tables.js';

/**
 * How the papers of a device count its places. On the wire the first is always 0 (Application Protocol 1.1b3 §4.4);
 * papers count from 0 or from 1, and many put the digit of the table before: 40001 is the first holding register.
 */
export const addressConventions = ['from-0', 'from-1', 'from-0-with-digit', 'from-1-with-digit'] as const;
export type AddressConvention = (typeof addressConventions)[number];

export const conventionWords: Readonly<Record<AddressConvention, string>> = {
  'from-0': 'counted from 0',
  'from-1': 'counted from 1',
  'from-0-with-digit': 'counted from 0, after the digit of the table',
  'from-1-with-digit': 'counted from 1, after the digit of the table',
};

const firstOf = (convention: AddressConvention): number => (convention.startsWith('from-1') ? 1 : 0);
const hasDigit = (convention: AddressConvention): boolean => convention.endsWith('digit');

export type AddressReading =
  | { readonly ok: true; /** On the wire, from 0. */ readonly place: number }
  | { readonly ok: false; readonly says: string };

/** Where an address that is written in a convention stands on the wire. */
export function readAddress(written: string, table: ModbusTable, convention: AddressConvention): AddressReading {
  const { digit, one } = tableShapes[table];
  const text = written.trim();
  if (!/^\d{1,6}$/.test(text)) return { ok: false, says: `“${written}” is no address: write digits alone.` };
  const first = firstOf(convention);
  let counted = text;
  if (hasDigit(convention)) {
    // Of coils the digit is 0, which lists of numbers lose.
    const whole = digit === '0' ? text.padStart(5, '0') : text;
    if (whole.length < 5 || !whole.startsWith(digit))
      return {
        ok: false,
        says: `The address of a ${one} begins with ${digit} and has five or six digits: ${digit}000${first} is the first.`,
      };
    counted = whole.slice(1);
  }
  const place = Number(counted) - first;
  if (place < 0) return { ok: false, says: 'This convention counts from 1: there is no address 0.' };
  return place < placesInTable
    ? { ok: true, place }
    : { ok: false, says: `A table has ${placesInTable.toLocaleString('en')} places at most.` };
}

/** How a place on the wire is written in a convention. */
export function writeAddress(place: number, table: ModbusTable, convention: AddressConvention): string {
  const counted = place + firstOf(convention);
  if (!hasDigit(convention)) return String(counted);
  return `${tableShapes[table].digit}${String(counted).padStart(counted > 9999 ? 5 : 4, '0')}`;
}
