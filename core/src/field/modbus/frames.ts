import { mostUnit, placesInTable, tableOfFunction, tableShapes } from './tables.js';
import type { ModbusTable } from './tables.js';

/**
 * What is said to and by a device over TCP: a header of seven octets, a function, and what belongs to it
 * (Messaging on TCP/IP 1.0b §3.1.3; Application Protocol 1.1b3 §4 to §7). Only reading is written here.
 */
export const headerBytes = 7;
/** The longest that there may be, header and all (Messaging on TCP/IP 1.0b §4.2.1). */
export const longestFrame = 260;
const exceptionBit = 0x80;

/** A request for a run of places of a table. */
export interface ModbusRead {
  /** Comes back with the answer; 16 bits. */
  readonly transaction: number;
  readonly unit: number;
  readonly table: ModbusTable;
  /** The first place, from 0. */
  readonly first: number;
  readonly count: number;
}

/** Throws a RangeError where a number is none of the protocol’s. */
export function writeRead({ transaction, unit, table, first, count }: ModbusRead): Uint8Array {
  const { readFunction, mostAtOnce } = tableShapes[table];
  within('A transaction', transaction, 0, 0xffff);
  within('A unit', unit, 0, mostUnit);
  within('A first place', first, 0, placesInTable - 1);
  within('A count', count, 1, Math.min(mostAtOnce, placesInTable - first));
  return frame(transaction, unit, [readFunction, first >> 8, first & 0xff, count >> 8, count & 0xff]);
}

/** The answer with what stands in the places: words, or bits as 0 and 1. */
export function writeAnswer({ transaction, unit, table }: ModbusRead, values: readonly number[]): Uint8Array {
  const { readFunction, holds } = tableShapes[table];
  const octets = holds === 'words' ? values.flatMap((word) => [(word >> 8) & 0xff, word & 0xff]) : packedBits(values);
  return frame(transaction, unit, [readFunction, octets.length, ...octets]);
}

export const writeException = (transaction: number, unit: number, functionCode: number, code: number): Uint8Array =>
  frame(transaction, unit, [functionCode | exceptionBit, code]);

export type FrameReading =
  /** More octets are needed. */
  | { readonly kind: 'incomplete' }
  /** What came can’t be a frame, whatever follows. */
  | { readonly kind: 'foreign'; readonly why: string }
  | { readonly kind: 'frame'; readonly frame: ModbusFrame; readonly length: number };

export interface ModbusFrame {
  readonly transaction: number;
  readonly unit: number;
  readonly functionCode: number;
  /** What follows the function. */
  readonly data: Uint8Array;
}

/** Reads the frame at the beginning of what came. Its length is believed within the protocol’s bounds alone. */
export function readFrame(octets: Uint8Array): FrameReading {
  if (octets.length >= 4 && word(octets, 2) !== 0)
    return { kind: 'foreign', why: `its protocol is ${word(octets, 2)}, and Modbus is 0` };
  if (octets.length < 6) return { kind: 'incomplete' };
  const length = word(octets, 4);
  if (length < 2 || length > longestFrame - 6)
    return { kind: 'foreign', why: `it is said to be ${length} octets long, and 2 to ${longestFrame - 6} are allowed` };
  if (octets.length < 6 + length) return { kind: 'incomplete' };
  const frame = {
    transaction: word(octets, 0),
    unit: octets[6] ?? 0,
    functionCode: octets[7] ?? 0,
    data: octets.slice(8, 6 + length),
  };
  return { kind: 'frame', frame, length: 6 + length };
}

/** What a device makes of a request. */
export type ReadAnswer =
  | { readonly outcome: 'values'; /** Words, or bits as 0 and 1. */ readonly values: readonly number[] }
  | { readonly outcome: 'exception'; readonly code: number }
  | { readonly outcome: 'other-transaction'; readonly transaction: number }
  /** The transaction is right, and what it says is no answer to the request. */
  | { readonly outcome: 'malformed'; readonly why: string };

/** Holds a frame against the request that it should answer. */
export function answerTo(asked: ModbusRead, { transaction, unit, functionCode, data }: ModbusFrame): ReadAnswer {
  if (transaction !== asked.transaction) return { outcome: 'other-transaction', transaction };
  if (unit !== asked.unit) return malformed(`unit ${unit} answered, and unit ${asked.unit} was asked`);
  const { readFunction, holds } = tableShapes[asked.table];
  if (functionCode === (readFunction | exceptionBit)) {
    const code = data[0];
    return code === undefined || data.length > 1
      ? malformed('an exception has one octet')
      : { outcome: 'exception', code };
  }
  if (functionCode !== readFunction)
    return malformed(`it answers function ${functionCode & ~exceptionBit}, and ${readFunction} was asked`);
  const wanted = holds === 'words' ? asked.count * 2 : Math.ceil(asked.count / 8);
  const told = data[0] ?? 0;
  if (told !== wanted || data.length !== wanted + 1)
    return malformed(`it holds ${Math.max(0, data.length - 1)} octets and announces ${told}, where ${wanted} belong`);
  return {
    outcome: 'values',
    values: Array.from({ length: asked.count }, (_, index) =>
      holds === 'words' ? word(data, 1 + index * 2) : ((data[1 + (index >> 3)] ?? 0) >> (index & 7)) & 1,
    ),
  };
}

/** A frame as a device understands it; a number is the exception with which it answers (§7). */
export function requestIn({ transaction, unit, functionCode, data }: ModbusFrame): ModbusRead | number {
  const table = tableOfFunction(functionCode);
  if (!table) return 1;
  if (data.length !== 4) return 3;
  const [first, count] = [word(data, 0), word(data, 2)];
  if (count < 1 || count > tableShapes[table].mostAtOnce) return 3;
  return first + count > placesInTable ? 2 : { transaction, unit, table, first, count };
}

const malformed = (why: string): ReadAnswer => ({ outcome: 'malformed', why });

const word = (octets: Uint8Array, at: number): number => ((octets[at] ?? 0) << 8) | (octets[at + 1] ?? 0);

function packedBits(values: readonly number[]): number[] {
  const octets = new Array<number>(Math.ceil(values.length / 8)).fill(0);
  values.forEach((bit, index) => {
    octets[index >> 3] = (octets[index >> 3] ?? 0) | ((bit & 1) << (index & 7));
  });
  return octets;
}

function frame(transaction: number, unit: number, body: readonly number[]): Uint8Array {
  const length = body.length + 1;
  return Uint8Array.from([transaction >> 8, transaction & 0xff, 0, 0, length >> 8, length & 0xff, unit, ...body]);
}

function within(what: string, value: number, least: number, most: number): void {
  if (!Number.isInteger(value) || value < least || value > most)
    throw new RangeError(`${what} is a whole number from ${least} to ${most}; ${value} is none.`);
}
