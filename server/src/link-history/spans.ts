import { and, asc, desc, eq, gt, gte, inArray, sql } from 'drizzle-orm';
import { leadingFindings } from '@loyal-hinge/core';
import type { LinkAssessment, LinkState, StepId } from '@loyal-hinge/core';
import type { SeenSpan } from '@loyal-hinge/core/casebook';
import type { LinkChange } from '@loyal-hinge/contract';
import type { Database, Queryable } from '../database/database.js';
import { linkSpans, links } from '../database/schema.js';

/** A span as it is kept: with why the link was so, in words. */
export interface KeptSpan extends SeenSpan {
  readonly id: number;
  readonly step: StepId | null;
  readonly title: string;
  readonly headline: string;
  /** Its last check. */
  readonly checkId: string;
}

type Row = typeof linkSpans.$inferSelect;
const spanOf = ({ fromAt, toAt, partedAt, lastCheckId, ...row }: Row): KeptSpan => ({
  ...row,
  step: partedAt,
  checkId: lastCheckId,
  from: Date.parse(fromAt),
  to: Date.parse(toAt),
});

interface Seen {
  readonly linkId: string;
  readonly checkId: string;
  readonly at: string;
  readonly body: LinkAssessment;
}

/**
 * Notes how a check saw a link: the same as before makes the last span longer, anything else begins another one. What is
 * noted twice is noted once.
 */
export function noteSeen(db: Database, { linkId, checkId, at, body }: Seen): Promise<void> {
  const { state, leadingCause, partedAt, headline } = body;
  return db.transaction(async (tx) => {
    // One after the other, so that whoever reads them by their numbers misses none.
    await tx.execute(sql`select pg_advisory_xact_lock(hashtextextended('link spans', 0))`);
    const [last] = await tx
      .select()
      .from(linkSpans)
      .where(eq(linkSpans.linkId, linkId))
      .orderBy(desc(linkSpans.id))
      .limit(1);
    if (last?.lastCheckId === checkId) return;
    if (last?.state === state && last.causeId === leadingCause) {
      await tx
        .update(linkSpans)
        .set({ toAt: at, checks: last.checks + 1, lastCheckId: checkId, headline })
        .where(eq(linkSpans.id, last.id));
      return;
    }
    const title = leadingFindings(body)[0]?.title ?? headline;
    const row = { linkId, state, causeId: leadingCause, partedAt, title, headline };
    await tx.insert(linkSpans).values({ ...row, fromAt: at, toAt: at, checks: 1, lastCheckId: checkId });
  });
}

/** By link, in the order of their times: spans that reach into a period. */
export async function spansSince(
  db: Queryable,
  from: number,
  linkIds?: readonly string[],
): Promise<ReadonlyMap<string, readonly KeptSpan[]>> {
  const wanted = gte(linkSpans.toAt, new Date(from).toISOString());
  const rows = await db
    .select()
    .from(linkSpans)
    .where(linkIds ? and(wanted, inArray(linkSpans.linkId, [...linkIds])) : wanted)
    .orderBy(asc(linkSpans.id));
  const byLink = new Map<string, KeptSpan[]>();
  for (const row of rows) {
    const known = byLink.get(row.linkId);
    if (known) known.push(spanOf(row));
    else byLink.set(row.linkId, [spanOf(row)]);
  }
  return byLink;
}

/** The newest times that links were parted, in the order of their times. */
export async function partedSpans(db: Queryable, most: number): Promise<readonly KeptSpan[]> {
  const rows = await db
    .select()
    .from(linkSpans)
    .where(eq(linkSpans.state, 'Parted'))
    .orderBy(desc(linkSpans.toAt))
    .limit(most);
  return rows.reverse().map(spanOf);
}

/** Where a span begins that is not a link’s first, a link changed. */
export async function changesAfter(
  db: Queryable,
  { after, most, newest }: { readonly after: number; readonly most: number; readonly newest: boolean },
): Promise<LinkChange[]> {
  const rows = await db
    .select({
      id: linkSpans.id,
      linkId: linkSpans.linkId,
      linkName: links.name,
      at: linkSpans.fromAt,
      from: sql<LinkState | null>`(select b.state from link_spans b where b.link_id = ${linkSpans.linkId} and b.id < ${linkSpans.id} order by b.id desc limit 1)`,
      to: linkSpans.state,
      step: linkSpans.partedAt,
      says: linkSpans.headline,
    })
    .from(linkSpans)
    .innerJoin(links, eq(links.id, linkSpans.linkId))
    .where(gt(linkSpans.id, after))
    .orderBy(newest ? desc(linkSpans.id) : asc(linkSpans.id))
    .limit(most);
  return rows.map(({ at, ...row }) => ({ ...row, at: new Date(at).toISOString() }));
}

/** The number of the newest span; 0: there is none. */
export async function newestSpan(db: Queryable): Promise<number> {
  const [row] = await db.select({ id: linkSpans.id }).from(linkSpans).orderBy(desc(linkSpans.id)).limit(1);
  return row?.id ?? 0;
}

/** Lets spans go that ended before a moment; the newest of each link stays, however old it is. */
export async function forgetSpans(db: Queryable, before: string): Promise<void> {
  await db.execute(sql`
    delete from link_spans s where s.to_at < ${before}::timestamptz
    and exists (select 1 from link_spans n where n.link_id = s.link_id and n.id > s.id)`);
}
