import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { from as copyFrom } from 'pg-copy-streams';
import { connectionOf } from './database.js';
import type { Queryable } from './database.js';

/** A value as COPY takes it: texts and numbers as they are, lists as PostgreSQL’s arrays, everything else as JSON. */
export type Copied = string | number | null | readonly string[] | readonly number[] | { readonly json: unknown };

const rowsAtOnce = 500;

/**
 * Writes rows into a table by COPY, in the transaction that is given: many times as fast as by INSERT.
 * @param table a name of our own, as SQL
 */
export async function copyIn(
  tx: Queryable,
  table: string,
  columns: readonly string[],
  rows: Iterable<readonly Copied[]>,
): Promise<void> {
  const into = connectionOf(tx).query(copyFrom(`copy ${table} (${columns.join(', ')}) from stdin`));
  await pipeline(Readable.from(linesOf(rows)), into);
}

function* linesOf(rows: Iterable<readonly Copied[]>): Generator<string> {
  let lines: string[] = [];
  for (const row of rows) {
    lines.push(`${row.map(cellOf).join('\t')}\n`);
    if (lines.length < rowsAtOnce) continue;
    yield lines.join('');
    lines = [];
  }
  if (lines.length > 0) yield lines.join('');
}

const special: Readonly<Record<string, string>> = { '\\': '\\\\', '\t': '\\t', '\n': '\\n', '\r': '\\r' };

/** A cell in COPY’s text format. */
export function cellOf(value: Copied): string {
  if (value === null) return '\\N';
  const text =
    typeof value === 'object' ? ('json' in value ? JSON.stringify(value.json) : arrayText(value)) : String(value);
  return text.replace(/[\\\t\n\r]/g, (letter) => special[letter] ?? letter);
}

const arrayText = (values: readonly (string | number)[]): string =>
  `{${values.map((value) => (typeof value === 'number' ? value : `"${value.replace(/["\\]/g, '\\$&')}"`)).join(',')}}`;
