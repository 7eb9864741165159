import { cellText, toCsv } from '../csv.js';
import { numberIn } from './conversion.js';
import type { Relay } from './relay.js';

export const relayColumns = [
  'id',
  'to',
  'toItem',
  'from',
  'fromItem',
  'type',
  'factor',
  'offset',
  'fromLow',
  'fromHigh',
  'toLow',
  'toHigh',
  'clamps',
  'deadBand',
  'whenBad',
] as const;
type Column = (typeof relayColumns)[number];

/** Relays as CSV (RFC 4180), one a line: the item that gets a value first, and then where it comes from. */
export const relaysToCsv = (relays: readonly Relay[]): string =>
  toCsv(
    relayColumns,
    relays.map((relay) => {
      const cells = cellsOf(relay);
      return relayColumns.map((column) => String(cells[column] ?? ''));
    }),
  );

function cellsOf({ id, from, to, as, scale, deadBand, onBad }: Relay): Readonly<Partial<Record<Column, unknown>>> {
  return {
    id,
    to: to.source,
    toItem: to.path,
    from: from.source,
    fromItem: from.path,
    type: as ?? '',
    ...(scale?.kind === 'linear' ? { factor: scale.factor, offset: scale.offset } : {}),
    ...(scale?.kind === 'ranges'
      ? {
          fromLow: scale.from[0],
          fromHigh: scale.from[1],
          toLow: scale.to[0],
          toHigh: scale.to[1],
          clamps: scale.clamps ? 'yes' : 'no',
        }
      : {}),
    ...(deadBand ? { deadBand: `${deadBand.by}${deadBand.kind === 'percent' ? '%' : ''}` } : {}),
    ...(onBad.kind === 'value'
      ? { whenBad: typeof onBad.value === 'string' ? `text:${onBad.value}` : String(onBad.value) }
      : {}),
  };
}

/** A row of such a file, not yet held against the rules for relays; `fault`: a cell that can’t be read. */
export type RelayRow =
  | { readonly ok: true; readonly relay: Readonly<Record<keyof Relay, unknown>> }
  | { readonly ok: false; readonly column: Column; readonly says: string };

/**
 * Reads a row.
 * @param row its cells by the names of their columns; one that is missing is empty
 */
export function relayInRow(row: Readonly<Record<string, string | undefined>>): RelayRow {
  const cell = (column: Column): string => cellText((row[column] ?? '').trim());
  const isGiven = (...columns: readonly Column[]): boolean => columns.some((column) => cell(column) !== '');
  const numbers = new Map<Column, number>();
  for (const column of ['factor', 'offset', 'fromLow', 'fromHigh', 'toLow', 'toHigh'] as const) {
    if (!isGiven(column)) continue;
    const number = numberIn(cell(column));
    if (number === null) return { ok: false, column, says: `“${cell(column)}” is no number.` };
    numbers.set(column, number);
  }
  const number = (column: Column): number | undefined => numbers.get(column);
  const isByRanges = isGiven('fromLow', 'fromHigh', 'toLow', 'toHigh');
  if (isByRanges && isGiven('factor', 'offset'))
    return { ok: false, column: 'factor', says: 'A value is scaled by a factor or by ranges, and not by both.' };
  const clamps = cell('clamps').toLowerCase();
  if (!['', 'yes', 'no'].includes(clamps)) return { ok: false, column: 'clamps', says: 'Write yes or no.' };
  const band = /^(\S+?)(%?)$/.exec(cell('deadBand'));
  const by = band ? numberIn(band[1]) : null;
  if (isGiven('deadBand') && by === null)
    return { ok: false, column: 'deadBand', says: 'Write a number, or a number with %.' };
  return {
    ok: true,
    relay: {
      id: cell('id'),
      to: { source: cell('to'), path: cell('toItem') },
      from: { source: cell('from'), path: cell('fromItem') },
      as: cell('type') || null,
      scale: isByRanges
        ? {
            kind: 'ranges',
            from: [number('fromLow'), number('fromHigh')],
            to: [number('toLow'), number('toHigh')],
            clamps: clamps !== 'no',
          }
        : isGiven('factor', 'offset')
          ? { kind: 'linear', factor: number('factor') ?? 1, offset: number('offset') ?? 0 }
          : null,
      deadBand: by === null ? null : { kind: band?.[2] === '%' ? 'percent' : 'absolute', by },
      onBad: onBadIn(cell('whenBad')),
    },
  };
}

function onBadIn(text: string): Relay['onBad'] {
  if (text === '') return { kind: 'hold' };
  if (text === 'true' || text === 'false') return { kind: 'value', value: text === 'true' };
  return { kind: 'value', value: numberIn(text) ?? text.replace(/^text:/, '') };
}
