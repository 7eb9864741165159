import { and, asc, count, desc, eq, inArray, sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import { linkKindIds } from '@loyal-hinge/core';
import type { LinkState } from '@loyal-hinge/core';
import type { LinkBoard, LinkFilter, LinkOrder, LinkRow } from '@loyal-hinge/contract';
import type { Queryable } from '../database/database.js';
import { hasWords } from '../database/has-words.js';
import { board, checks } from '../database/schema.js';
import { heldByPeople } from '../processes/machine-locks.js';

type BoardRow = typeof board.$inferSelect;
type Opened = { readonly id: string; readonly state: string };

export interface BoardWish extends LinkFilter {
  readonly by?: LinkOrder | undefined;
  readonly from?: number | undefined;
  readonly most?: number | undefined;
}

const usualRows = 100;
const underWay = inArray(checks.state, ['queued', 'running']);

/** The place of a state in the usual order, as `board_follow` writes it; what is looked for by state is found by it. */
const rankOf: Readonly<Record<LinkState, number>> = { Parted: 0, Strained: 1, Untried: 2, Sound: 3 };
const usableRanks = [rankOf.Strained, rankOf.Sound];

/** Every order ends with the id, so that rows of the same rank keep their places from page to page. */
const orders: Readonly<Record<LinkOrder, readonly SQL[]>> = {
  place: [asc(board.rank), asc(board.place), asc(board.name), asc(board.linkId)],
  name: [asc(board.name), asc(board.linkId)],
  server: [asc(board.server), asc(board.name), asc(board.linkId)],
  checked: [sql`${board.checkedAt} desc nulls last`, desc(board.linkId)],
};

/** Some rows of the board, read from stored columns: nothing is assessed for it. */
export async function boardPage(db: Queryable, wish: BoardWish): Promise<LinkBoard> {
  const { by = 'place', from = 0, most = usualRows } = wish;
  const [rows, fitting, kinds, states, [open]] = await Promise.all([
    db
      .select()
      .from(board)
      .where(fits(wish))
      .orderBy(...orders[by])
      .offset(from)
      .limit(most),
    countOf(db, wish),
    db.select({ kind: board.kind }).from(board).where(fits(wish)).groupBy(board.kind),
    db.select({ rank: board.rank, links: count() }).from(board).groupBy(board.rank),
    db.select({ checks: count() }).from(checks).where(underWay),
  ]);
  const linksIn = (state: LinkState): number => states.find(({ rank }) => rank === rankOf[state])?.links ?? 0;
  const all = states.reduce((sum, { links }) => sum + links, 0);
  return {
    from,
    rows: await shownRows(db, rows),
    fitting: fitting ?? all,
    kinds: linkKindIds.filter((kind) => kinds.some((found) => found.kind === kind)),
    states: {
      Parted: linksIn('Parted'),
      Strained: linksIn('Strained'),
      Untried: linksIn('Untried'),
      Sound: linksIn('Sound'),
    },
    underWay: open?.checks ?? 0,
  };
}

/** How many rows fit; null where all do. */
async function countOf(db: Queryable, filter: LinkFilter): Promise<number | null> {
  const where = fits(filter);
  if (!where) return null;
  const [row] = await db.select({ links: count() }).from(board).where(where);
  return row?.links ?? 0;
}

/** One row; null where there is no such link. */
export async function boardRow(db: Queryable, linkId: string): Promise<LinkRow | null> {
  const [row] = await shownRows(db, await db.select().from(board).where(eq(board.linkId, linkId)));
  return row ?? null;
}

const atOnce = 2000;

/** All rows that fit, some at a time. */
export async function* boardRows(db: Queryable, wish: BoardWish): AsyncGenerator<readonly LinkRow[]> {
  for (let from = 0; ; from += atOnce) {
    const rows = await db
      .select()
      .from(board)
      .where(fits(wish))
      .orderBy(...orders[wish.by ?? 'place'])
      .offset(from)
      .limit(atOnce);
    if (rows.length > 0) yield rows.map((row) => shown(row, undefined, null));
    if (rows.length < atOnce) return;
  }
}

/** The ids of all links that fit. */
export async function idsFitting(db: Queryable, filter: LinkFilter): Promise<string[]> {
  const rows = await db
    .select({ id: board.linkId })
    .from(board)
    .where(fits(filter))
    .orderBy(...orders.place);
  return rows.map(({ id }) => id);
}

/** Every word that was typed must stand somewhere in the row. */
function fits({ find = '', state, kind, usable }: LinkFilter): SQL | undefined {
  return and(
    hasWords(board.search, find),
    state && eq(board.rank, rankOf[state]),
    kind && eq(board.kind, kind),
    usable && and(eq(board.kind, 'ua'), inArray(board.rank, usableRanks)),
  );
}

/** Rows with what goes on just now. */
async function shownRows(db: Queryable, rows: readonly BoardRow[]): Promise<LinkRow[]> {
  if (rows.length === 0) return [];
  const ids = rows.map(({ linkId }) => linkId);
  const [open, holders] = await Promise.all([
    db
      .select({ id: checks.id, linkId: checks.linkId, state: checks.state })
      .from(checks)
      .where(and(underWay, inArray(checks.linkId, ids)))
      .orderBy(checks.askedAt),
    heldByPeople(db),
  ]);
  const byLink = new Map<string, Opened>(open.map((check) => [check.linkId, check]));
  return rows.map((row) => {
    const check = byLink.get(row.linkId);
    return shown(row, check, check?.state === 'queued' ? (holders.get(row.machineId) ?? null) : null);
  });
}

const shown = (row: BoardRow, check: Opened | undefined, waitsFor: string | null): LinkRow => ({
  id: row.linkId,
  kind: row.kind,
  name: row.name,
  client: row.client,
  clientZone: row.clientZone,
  server: row.server,
  serverZone: row.serverZone,
  endpointUrl: row.endpointUrl,
  state: row.state,
  headline: row.headline,
  partedAt: row.partedAt,
  leadingCause: row.leadingCause,
  verdicts: row.verdicts,
  checkedAt: row.checkedAt === null ? null : new Date(row.checkedAt).toISOString(),
  checkId: check?.id ?? null,
  waitsFor,
});
