import { parse } from 'csv-parse/sync';
import { machine as machineSchema, machineColumns, plainly } from '@loyal-hinge/contract';
import { cellText, toCsv } from '@loyal-hinge/core';
import type { Problem } from '@loyal-hinge/contract';
import type { Machine, Zone } from '@loyal-hinge/core';

export type CsvResult =
  | { readonly ok: true; readonly machines: readonly Machine[] }
  | { readonly ok: false; readonly faults: NonNullable<Problem['faults']> };

/** Writes machines as CSV (RFC 4180): one a line, names and addresses divided by blanks. */
export function machinesToCsv(machines: readonly Machine[]): string {
  const rows = machines.map(({ id, zoneId, name, description, hostNames, addresses }) => [
    id,
    zoneId,
    name,
    description,
    hostNames.join(' '),
    addresses.join(' '),
  ]);
  return toCsv(machineColumns, rows);
}

/** Reads machines from CSV; every faulty row is named, and then none is used. */
export function machinesFromCsv(csv: string, zones: readonly Zone[]): CsvResult {
  let rows: Record<string, string>[];
  try {
    rows = parse(csv, { columns: true, bom: true, skip_empty_lines: true, trim: true, relax_column_count: false });
  } catch (error) {
    return {
      ok: false,
      faults: [{ place: 'csv', says: error instanceof Error ? error.message : 'It can’t be read.' }],
    };
  }
  const faults: { place: string; says: string }[] = [];
  const machines: Machine[] = [];
  const zoneIds = new Set(zones.map((zone) => zone.id));
  const seen = new Set<string>();
  if (rows.length === 0)
    faults.push({ place: 'csv', says: `There is no row. The first line must be: ${machineColumns.join(',')}` });
  rows.forEach((row, index) => {
    const place = `row ${index + 2}`;
    const given = {
      id: row['id'],
      zoneId: row['zone'],
      name: cellText(row['name'] ?? ''),
      description: cellText(row['description'] ?? ''),
      hostNames: words(row['hostNames']),
      addresses: words(row['addresses']),
    };
    const read = machineSchema.safeParse(given, { error: plainly });
    if (!read.success) {
      for (const issue of read.error.issues)
        faults.push({ place: `${place}, ${columnOf(String(issue.path[0] ?? ''))}`, says: issue.message });
    } else if (!zoneIds.has(read.data.zoneId)) {
      faults.push({ place: `${place}, zone`, says: `There is no zone “${read.data.zoneId}”.` });
    } else if (seen.has(read.data.id)) {
      faults.push({ place: `${place}, id`, says: `“${read.data.id}” appears in the file twice.` });
    } else {
      seen.add(read.data.id);
      machines.push(read.data);
    }
  });
  return faults.length > 0 ? { ok: false, faults } : { ok: true, machines };
}

const columnOf = (field: string): string => (field === 'zoneId' ? 'zone' : field || 'row');
const words = (text: string | undefined): string[] => (text ?? '').split(/\s+/).filter((word) => word !== '');
