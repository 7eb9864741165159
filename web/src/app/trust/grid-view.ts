import { fitsWords } from '@loyal-hinge/core';
import type {
  GridCellView,
  GridChoice,
  GridColumnView,
  TrustOverview,
  TrustPartyRow,
  UserTrust,
} from '@loyal-hinge/contract';

export interface ShownRow {
  readonly party: TrustPartyRow;
  /** By thumbprint of the column. */
  readonly cells: ReadonlyMap<string, GridCellView>;
}

/** A certificate of an application or an authority, or of a user. */
export type ShownColumn = GridColumnView & { readonly isUser: boolean };

export interface ShownGrid {
  readonly zones: readonly { readonly zone: string; readonly rows: readonly ShownRow[] }[];
  readonly columns: readonly ShownColumn[];
}

/** What of the grid is looked at. */
export interface GridLook {
  readonly find: string;
  readonly only: GridChoice;
}

/**
 * Rows by zone; authorities stand first among the columns, then what applications show, then what nobody shows, and user
 * certificates at the end.
 */
export function shownGrid(
  { parties, columns, cells: ofApplications }: TrustOverview,
  users: UserTrust | null = null,
  look: GridLook = { find: '', only: 'all' },
): ShownGrid {
  const ofUsers = users ? usersShown(users, parties, look) : { columns: [], cells: [] };
  const cells = [...ofApplications, ...ofUsers.cells];
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
    columns: [
      ...toldApart(columns.map((column) => ({ ...column, isUser: false }))),
      ...toldApart(ofUsers.columns),
    ].sort((left, right) => kindRank(left) - kindRank(right) || left.name.localeCompare(right.name)),
  };
}

const fitsChoice: Readonly<Record<GridChoice, (cell: GridCellView) => boolean>> = {
  all: () => true,
  needed: ({ linkIds }) => linkIds.length > 0,
  refused: ({ linkIds, standing }) => linkIds.length > 0 && standing === 'not at all',
  idle: ({ linkIds, standing }) => linkIds.length === 0 && standing === 'directly',
};

/** User certificates as columns, as far as they say something of the applications that are shown. */
function usersShown(
  users: UserTrust,
  parties: readonly TrustPartyRow[],
  { find, only }: GridLook,
): { readonly columns: readonly ShownColumn[]; readonly cells: readonly GridCellView[] } {
  const fits = fitsWords(find);
  const named = new Map(parties.map((party) => [party.applicationId, `${party.name} ${party.zone}`]));
  const byThumbprint = new Map(users.columns.map((column) => [column.thumbprint, column]));
  const cells = users.cells.filter((cell) => {
    const [party, column] = [named.get(cell.holderId), byThumbprint.get(cell.thumbprint)];
    return party !== undefined && column && fitsChoice[only](cell) && fits(party, column.name, column.subject);
  });
  const there = new Set(cells.map(({ thumbprint }) => thumbprint));
  return {
    cells,
    columns: users.columns
      .filter(({ thumbprint }) => there.has(thumbprint))
      .map((column) => ({
        ...column,
        notAfter: column.notAfter ?? '',
        isAuthority: false,
        isUser: true,
        shownBy: [],
        revoked: false,
      })),
  };
}

/** Names that come twice, as they do where a certificate was renewed, are followed by the first digits of the thumbprint. */
function toldApart(columns: readonly ShownColumn[]): readonly ShownColumn[] {
  const times = new Map<string, number>();
  for (const { name } of columns) times.set(name, (times.get(name) ?? 0) + 1);
  return columns.map((column) =>
    (times.get(column.name) ?? 0) > 1
      ? { ...column, name: `${column.name} (${column.thumbprint.slice(0, 8)})` }
      : column,
  );
}

const kindRank = ({ isAuthority, isUser, shownBy }: ShownColumn): number =>
  isUser ? 3 : isAuthority ? 0 : shownBy.length > 0 ? 1 : 2;
