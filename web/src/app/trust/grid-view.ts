import type { GridCellView, GridColumnView, TrustOverview, TrustPartyRow } from '@loyal-hinge/contract';

export interface ShownRow {
  readonly party: TrustPartyRow;
  /** By thumbprint of the column. */
  readonly cells: ReadonlyMap<string, GridCellView>;
}

export interface ShownGrid {
  readonly zones: readonly { readonly zone: string; readonly rows: readonly ShownRow[] }[];
  readonly columns: readonly GridColumnView[];
}

/** Rows by zone; authorities stand first among the columns, then what applications show, then what nobody shows. */
export function shownGrid({ parties, columns, cells }: TrustOverview): ShownGrid {
  const byHolder = new Map<string, Map<string, GridCellView>>();
  for (const cell of cells) {
    const known = byHolder.get(cell.holderId) ?? new Map<string, GridCellView>();
    known.set(cell.thumbprint, cell);
    byHolder.set(cell.holderId, known);
  }
  const zones = new Map<string, ShownRow[]>();
  for (const party of parties) {
    const row = { party, cells: byHolder.get(party.applicationId) ?? new Map<string, GridCellView>() };
    const rows = zones.get(party.zone);
    if (rows) rows.push(row);
    else zones.set(party.zone, [row]);
  }
  return {
    zones: [...zones].map(([zone, rows]) => ({ zone, rows })),
    columns: [...toldApart(columns)].sort(
      (left, right) => kindRank(left) - kindRank(right) || left.name.localeCompare(right.name),
    ),
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
