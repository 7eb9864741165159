import type { GridCellView, GridColumnView, TrustOverview, TrustPartyRow } from '@loyal-hinge/contract';
import { lookingFor } from '../shell/words';

/** What of the grid is shown. */
export interface GridChoice {
  readonly words: string;
  readonly only: 'all' | 'needed' | 'refused' | 'idle';
}

export interface ShownRow {
  readonly party: TrustPartyRow;
  /** By thumbprint of the column. */
  readonly cells: ReadonlyMap<string, GridCellView>;
}

export interface ShownGrid {
  readonly zones: readonly { readonly zone: string; readonly rows: readonly ShownRow[] }[];
  readonly columns: readonly GridColumnView[];
}

const choices: Readonly<Record<GridChoice['only'], (cell: GridCellView) => boolean>> = {
  all: () => true,
  needed: ({ linkIds }) => linkIds.length > 0,
  refused: ({ linkIds, status, standing }) => linkIds.length > 0 && status !== 'Good' && standing !== 'not known',
  idle: ({ linkIds, standing }) => linkIds.length === 0 && standing === 'directly',
};

/** Rows by zone; authorities stand first among the columns, then what applications show, then what nobody shows. */
export function shownGrid({ parties, columns, cells }: TrustOverview, { words, only }: GridChoice): ShownGrid {
  const fits = lookingFor(words);
  const columnOf = new Map(columns.map((column) => [column.thumbprint, column]));
  const partyOf = new Map(parties.map((party) => [party.applicationId, party]));
  const fitting = cells.filter((cell) => {
    const [party, column] = [partyOf.get(cell.holderId), columnOf.get(cell.thumbprint)];
    return (
      choices[only](cell) && party && column && fits(party.name, party.zone, column.name, column.subject, cell.standing)
    );
  });
  const everything = only === 'all' && words.trim() === '';
  const rowIds = new Set(fitting.map(({ holderId }) => holderId));
  const columnIds = new Set(fitting.map(({ thumbprint }) => thumbprint));
  const rows = parties.filter(({ applicationId }) => everything || rowIds.has(applicationId));
  const byHolder = new Map<string, Map<string, GridCellView>>();
  for (const cell of everything ? cells : fitting) {
    const known = byHolder.get(cell.holderId) ?? new Map<string, GridCellView>();
    known.set(cell.thumbprint, cell);
    byHolder.set(cell.holderId, known);
  }
  const zones = [...new Set(rows.map(({ zone }) => zone))];
  return {
    zones: zones.map((zone) => ({
      zone,
      rows: rows
        .filter((party) => party.zone === zone)
        .map((party) => ({ party, cells: byHolder.get(party.applicationId) ?? new Map() })),
    })),
    columns: toldApart(columns)
      .filter(({ thumbprint }) => everything || columnIds.has(thumbprint))
      .sort((left, right) => kindRank(left) - kindRank(right) || left.name.localeCompare(right.name)),
  };
}

/** Names that come twice, as they do where a certificate was renewed, are followed by the first digits of the thumbprint. */
function toldApart(columns: readonly GridColumnView[]): readonly GridColumnView[] {
  const times = new Map<string, number>();
  for (const { name } of columns) times.set(name, (times.get(name) ?? 0) + 1);
  return columns.map((column) =>
    (times.get(column.name) ?? 0) > 1
      ? { ...column, name: `${column.name} (${column.thumbprint.slice(0, 8)})` }
      : column,
  );
}

const kindRank = ({ isAuthority, shownBy }: GridColumnView): number => (isAuthority ? 0 : shownBy.length > 0 ? 1 : 2);
