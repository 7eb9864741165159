import { parse } from 'csv-parse/sync';
import type { RecordEvent } from '../log-event.js';
import { timeAt } from './times.js';
import type { LogClock } from './times.js';

/** Names under which logs say when, the likeliest first. */
const timeNames = /^(?:@?time(?:stamp)?|date(?:time)?|time_?(?:created|generated|stamp)?|ts|when|at)$/i;
const mostFields = 500;

/** A JSON object in a line; what lies deeper goes by its path. @returns null: it is none */
export function jsonLine(line: string, position: number, clock: LogClock): RecordEvent | null {
  let read: unknown;
  try {
    read = JSON.parse(line);
  } catch {
    return null;
  }
  if (typeof read !== 'object' || read === null || Array.isArray(read)) return null;
  const data: Record<string, string> = {};
  flatten(read, '', data, 0);
  return { kind: 'record', position, time: timeIn(data, clock), data };
}

function flatten(value: object, before: string, data: Record<string, string>, depth: number): void {
  for (const [name, part] of Object.entries(value)) {
    if (Object.keys(data).length >= mostFields) return;
    if (typeof part === 'object' && part !== null && depth < 8)
      flatten(part as object, `${before}${name}.`, data, depth + 1);
    else data[`${before}${name}`] = typeof part === 'string' ? part : JSON.stringify(part);
  }
}

/** Rows of CSV below a line with their names; each row is one line. */
export class CsvLines {
  private readonly names: readonly string[];
  private readonly delimiter: string;

  /** @param head the line with the names */
  constructor(head: string) {
    this.delimiter = delimiterIn(head) ?? ',';
    this.names = (cells(head, this.delimiter) ?? []).map((name) => name.trim());
  }

  /** @returns null: the line is no row */
  event(line: string, position: number, clock: LogClock): RecordEvent | null {
    const values = cells(line, this.delimiter);
    if (!values || values.length > this.names.length) return null;
    const data = Object.fromEntries(values.map((value, index) => [this.names[index] || `#${index + 1}`, value]));
    return { kind: 'record', position, time: timeIn(data, clock), data };
  }
}

/** Whether a line could name the columns of a table. */
export function isCsvHead(line: string): boolean {
  const delimiter = delimiterIn(line);
  if (delimiter === null) return false;
  const names = cells(line, delimiter) ?? [];
  const areNames = names.every((name) => /^[\p{L}@_#][\p{L}\p{N} _.:/@()#-]{0,60}$/u.test(name.trim()));
  return names.length >= 2 && areNames && new Set(names).size === names.length;
}

function delimiterIn(line: string): string | null {
  const counts = [',', ';', '\t'].map((delimiter) => ({ delimiter, count: line.split(delimiter).length - 1 }));
  const [best] = counts.sort((one, other) => other.count - one.count);
  return best && best.count > 0 ? best.delimiter : null;
}

function cells(line: string, delimiter: string): readonly string[] | null {
  if (!line.includes('"')) return line.split(delimiter);
  try {
    const [row] = parse(line, { delimiter, relax_column_count: true }) as string[][];
    return row ?? null;
  } catch {
    return null;
  }
}

function timeIn(data: Readonly<Record<string, string>>, clock: LogClock): string | null {
  for (const [name, value] of Object.entries(data)) {
    if (!timeNames.test(name.slice(name.lastIndexOf('.') + 1))) continue;
    const found = timeAt(value.trim(), clock);
    if (found) return found.time;
    /* Seconds or milliseconds since 1970. */
    if (/^\d{10}(?:\.\d+)?$|^\d{13}$/.test(value)) {
      const ms = value.length === 13 ? Number(value) : Number(value) * 1000;
      return new Date(ms).toISOString();
    }
  }
  return null;
}
