import { parse } from 'csv-parse/sync';
import { mostOriginLines, originColumns, originWish, plainly } from '@loyal-hinge/contract';
import type { OriginsTaken, OriginWish } from '@loyal-hinge/contract';
import { cellText, toCsv } from '@loyal-hinge/core';
import type { OriginAt } from '@loyal-hinge/core/field';

export interface OriginsRead {
  readonly origins: readonly OriginWish[];
  readonly faults: OriginsTaken['faults'];
  /** In which line each path stands. */
  readonly lineOf: ReadonlyMap<string, number>;
}

/** Writes origins as CSV (RFC 4180), as they can be brought again. */
export function originsToCsv(origins: readonly OriginAt[]): string {
  const rows = origins.map(({ path, origin: { form, ...origin } }) => [
    path,
    origin.deviceId,
    String(origin.port),
    String(origin.unit),
    origin.table,
    origin.address,
    origin.convention,
    form.type,
    form.order,
    String(form.scale),
    String(form.offset),
    form.bits
      ? form.bits.count === 1
        ? `${form.bits.from}`
        : `${form.bits.from}-${form.bits.from + form.bits.count - 1}`
      : '',
    form.registers === undefined ? '' : String(form.registers),
    origin.within === null ? '' : String(origin.within),
  ]);
  return toCsv(originColumns, rows);
}

/** Reads origins from CSV. Columns that are left out or empty mean the usual; a line that is wrong is told, and the others stand. */
export function originsFromCsv(csv: string): OriginsRead {
  let rows: Record<string, string>[];
  try {
    rows = parse(csv, {
      columns: true,
      bom: true,
      skip_empty_lines: true,
      trim: true,
      relax_column_count: true,
      to: mostOriginLines + 1,
    });
  } catch (error) {
    return nothing(1, error instanceof Error ? error.message : 'It can’t be read.');
  }
  if (rows.length === 0 || !('path' in (rows[0] ?? {})))
    return nothing(1, `The first line must name the columns: ${originColumns.join(',')}`);
  if (rows.length > mostOriginLines)
    return nothing(mostOriginLines + 2, `At most ${mostOriginLines} lines at once: take the file apart.`);
  const origins: OriginWish[] = [];
  const faults: { line: number; says: string }[] = [];
  const lineOf = new Map<string, number>();
  rows.forEach((row, index) => {
    const line = index + 2;
    const read = originWish.safeParse(wishIn(row), { error: plainly });
    if (!read.success) {
      const [issue] = read.error.issues;
      faults.push({ line, says: `${columnOf(issue?.path ?? [])}: ${issue?.message ?? ''}` });
      return;
    }
    const before = lineOf.get(read.data.path);
    if (before !== undefined)
      return void faults.push({ line, says: `path: “${read.data.path}” is in line ${before}, too.` });
    lineOf.set(read.data.path, line);
    origins.push(read.data);
  });
  return { origins, faults, lineOf };
}

const nothing = (line: number, says: string): OriginsRead => ({
  origins: [],
  faults: [{ line, says }],
  lineOf: new Map(),
});

function wishIn(row: Readonly<Record<string, string>>): unknown {
  const cell = (name: string): string => cellText(row[name] ?? '').trim();
  const number = (name: string, usual: number | undefined): number | string | undefined =>
    cell(name) === '' ? usual : Number.isNaN(Number(cell(name))) ? cell(name) : Number(cell(name));
  const bits = /^(\d+)(?:-(\d+))?$/.exec(cell('bits'));
  const from = Number(bits?.[1] ?? 0);
  const registers = number('registers', undefined);
  return {
    path: cell('path'),
    origin: {
      deviceId: cell('device'),
      port: number('port', 502),
      unit: number('unit', 1),
      table: cell('table') || 'holding',
      address: cell('address'),
      convention: cell('convention') || 'from-1-with-digit',
      form: {
        type: cell('type') || 'uint16',
        order: cell('order') || 'high-first',
        scale: number('scale', 1),
        offset: number('offset', 0),
        bits: cell('bits') === '' ? null : bits ? { from, count: Number(bits[2] ?? from) - from + 1 } : cell('bits'),
        ...(registers === undefined ? {} : { registers }),
      },
      within: cell('within') === '' ? null : number('within', 0),
    },
  };
}

const columnOf = (path: readonly PropertyKey[]): string => {
  const last = path.map(String).filter((part) => part !== 'origin' && part !== 'form')[0] ?? 'row';
  return last === 'deviceId' ? 'device' : last;
};
