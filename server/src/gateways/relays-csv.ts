import { parse } from 'csv-parse/sync';
import { relayInRow, relayColumns, relaysToCsv } from '@loyal-hinge/core';
import { plainly, relayOfGateway } from '@loyal-hinge/contract';
import type { Problem, RelayOfGateway } from '@loyal-hinge/contract';

export type RelaysRead =
  | { readonly ok: true; readonly relays: readonly RelayOfGateway[] }
  | { readonly ok: false; readonly faults: NonNullable<Problem['faults']> };

/** Relays as CSV, their links by their ids. */
export const csvOfRelays = (relays: readonly RelayOfGateway[]): string =>
  relaysToCsv(
    relays.map(({ from, to, ...relay }) => ({
      ...relay,
      from: { source: from.linkId, path: from.path },
      to: { source: to.linkId, path: to.path },
    })),
  );

/** Reads relays; every faulty row is named, and then none is used. */
export function relaysInCsv(csv: string): RelaysRead {
  let rows: Record<string, string>[];
  try {
    rows = parse(csv, { columns: true, bom: true, skip_empty_lines: true, trim: true, relax_column_count: false });
  } catch (error) {
    const says = error instanceof Error ? error.message : 'It can’t be read.';
    return { ok: false, faults: [{ place: 'csv', says }] };
  }
  if (rows.length === 0)
    return {
      ok: false,
      faults: [{ place: 'csv', says: `There is no row. The first line must be: ${relayColumns.join(',')}` }],
    };
  const faults: { place: string; says: string }[] = [];
  const relays: RelayOfGateway[] = [];
  rows.forEach((row, index) => {
    const place = `row ${index + 2}`;
    const made = relayInRow(row);
    if (!made.ok) return faults.push({ place: `${place}, ${made.column}`, says: made.says });
    const { from, to, ...rest } = made.relay;
    const read = relayOfGateway.safeParse({ ...rest, from: byLink(from), to: byLink(to) }, { error: plainly });
    if (!read.success)
      return read.error.issues.forEach(({ path, message }) =>
        faults.push({ place: `${place}, ${path.join(' ')}`, says: message }),
      );
    if (relays.some(({ id }) => id === read.data.id))
      return faults.push({ place: `${place}, id`, says: `“${read.data.id}” appears in the file twice.` });
    return relays.push(read.data);
  });
  return faults.length > 0 ? { ok: false, faults } : { ok: true, relays };
}

const byLink = (end: unknown): unknown => {
  const { source, path } = end as { source: unknown; path: unknown };
  return { linkId: source, path };
};
