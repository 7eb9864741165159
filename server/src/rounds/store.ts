import { and, asc, desc, eq, inArray, isNull, lte, sql } from 'drizzle-orm';
import { askNow, nextRound } from '@loyal-hinge/core/casebook';
import type { RoundRow, RoundScope, RoundsView, RoundWish } from '@loyal-hinge/contract';
import type { Queryable } from '../database/database.js';
import { applications, links, machines, roundRuns, rounds, zones } from '../database/schema.js';

export type Round = typeof rounds.$inferSelect;
type RunRow = typeof roundRuns.$inferSelect;

export async function allRounds(db: Queryable): Promise<readonly Round[]> {
  return db.select().from(rounds).orderBy(asc(rounds.name));
}

export async function findRound(db: Queryable, id: string): Promise<Round | null> {
  const [row] = await db.select().from(rounds).where(eq(rounds.id, id));
  return row ?? null;
}

const iso = (at: number | null): string | null => (at === null ? null : new Date(at).toISOString());
const nextOf = (wish: RoundWish, now: number): string | null => (wish.isPaused ? null : iso(nextRound(wish, now)));

export async function keepRound(tx: Queryable, id: string, wish: RoundWish, now: number): Promise<void> {
  const row = { ...wish, id, nextAt: nextOf(wish, now) };
  await tx.insert(rounds).values(row).onConflictDoUpdate({ target: rounds.id, set: row });
}

export async function removeRound(tx: Queryable, id: string): Promise<void> {
  await tx.delete(rounds).where(eq(rounds.id, id));
}

/** The links that a round checks, as the plant is now. */
export async function linksOf(db: Queryable, scope: RoundScope): Promise<string[]> {
  if (scope.kind === 'links') {
    const there = await db.select({ id: links.id }).from(links).where(inArray(links.id, scope.linkIds));
    return there.map(({ id }) => id);
  }
  if (scope.kind === 'plant')
    return (await db.select({ id: links.id }).from(links).orderBy(links.name)).map(({ id }) => id);
  const { rows } = await db.execute<{ id: string }>(sql`
    select ${links.id} as id from ${links}
    where exists (select 1 from ${applications} join ${machines} on ${machines.id} = ${applications.machineId}
      where ${applications.id} in (${links.clientId}, ${links.serverId}) and ${machines.zoneId} = ${scope.zoneId})
    order by ${links.name}`);
  return rows.map(({ id }) => id);
}

/** More are not chosen from by name. */
const mostChoices = 2000;

/** Zones and links by their names. */
export async function whatThereIs(db: Queryable): Promise<Pick<RoundsView, 'zones' | 'links'>> {
  const [zonesThere, linksThere] = await Promise.all([
    db.select({ id: zones.id, name: zones.name }).from(zones).orderBy(asc(zones.order)),
    db.select({ id: links.id, name: links.name }).from(links).orderBy(asc(links.name)).limit(mostChoices),
  ]);
  return { zones: zonesThere, links: linksThere };
}

/** What a zone or a link is called; null: there is none such. */
export async function nameOf(db: Queryable, what: 'zone' | 'link', id: string): Promise<string | null> {
  const table = what === 'zone' ? zones : links;
  const [row] = await db.select({ name: table.name }).from(table).where(eq(table.id, id));
  return row?.name ?? null;
}

/** Rounds whose time has come; each is given to one process, and its next time is set. */
export async function takeDue(tx: Queryable, now: number): Promise<readonly Round[]> {
  const due = await tx
    .select()
    .from(rounds)
    .where(and(eq(rounds.isPaused, false), lte(rounds.nextAt, new Date(now).toISOString())))
    .for('update', { skipLocked: true });
  for (const round of due)
    await tx
      .update(rounds)
      .set({ nextAt: iso(nextRound(round, now)) })
      .where(eq(rounds.id, round.id));
  return due;
}

/** The run of a round that has links left to ask for. */
export async function openRun(tx: Queryable, roundId: string): Promise<RunRow | null> {
  const [row] = await tx
    .select()
    .from(roundRuns)
    .where(and(eq(roundRuns.roundId, roundId), isNull(roundRuns.endedAt)))
    .limit(1);
  return row ?? null;
}

export async function addRun(tx: Queryable, roundId: string, pending: string[], askedBy: string): Promise<void> {
  const endedAt = pending.length === 0 ? new Date().toISOString() : null;
  await tx.insert(roundRuns).values({ roundId, pending, links: pending.length, askedBy, endedAt });
}

/** Links that are to be asked for now: of each open run some, so that its rate is kept. */
export async function takePending(
  tx: Queryable,
  now: number,
  everyMs: number,
): Promise<readonly { readonly linkIds: readonly string[]; readonly name: string }[]> {
  const open = await tx
    .select({ run: roundRuns, name: rounds.name, perMinute: rounds.perMinute })
    .from(roundRuns)
    .innerJoin(rounds, eq(rounds.id, roundRuns.roundId))
    .where(isNull(roundRuns.endedAt))
    .for('update', { of: roundRuns, skipLocked: true });
  const taken: { linkIds: string[]; name: string }[] = [];
  for (const { run, name, perMinute } of open) {
    const asked = run.links - run.pending.length;
    const most = askNow({ perMinute, begunAt: Date.parse(run.begunAt), asked }, now, everyMs);
    if (most === 0) continue;
    const pending = run.pending.slice(most);
    taken.push({ linkIds: run.pending.slice(0, most), name });
    const endedAt = pending.length === 0 ? new Date().toISOString() : null;
    await tx.update(roundRuns).set({ pending, endedAt }).where(eq(roundRuns.id, run.id));
  }
  return taken;
}

const runOf = ({ begunAt, endedAt, links: all, pending, askedBy }: RunRow): RoundRow['lastRun'] => ({
  begunAt: new Date(begunAt).toISOString(),
  endedAt: endedAt === null ? null : new Date(endedAt).toISOString(),
  links: all,
  pending: pending.length,
  askedBy,
});

export async function rowOf(db: Queryable, round: Round): Promise<RoundRow> {
  const [run] = await db
    .select()
    .from(roundRuns)
    .where(eq(roundRuns.roundId, round.id))
    .orderBy(desc(roundRuns.id))
    .limit(1);
  const { quiet, nextAt, ...rest } = round;
  return {
    ...rest,
    quiet: quiet && { ...quiet, days: [...quiet.days] },
    links: (await linksOf(db, round.scope)).length,
    nextAt: nextAt === null ? null : new Date(nextAt).toISOString(),
    lastRun: run ? runOf(run) : null,
  };
}
