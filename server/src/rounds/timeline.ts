import { and } from 'drizzle-orm';
import { availabilityOf, holdOf, nextRound, sharesOf, stretchesOf, usualHoldMs } from '@loyal-hinge/core/casebook';
import type { Stretch } from '@loyal-hinge/core/casebook';
import type { TimelineRow, TimelineView } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { hasWords } from '../database/has-words.js';
import { ofThese } from '../database/of-these.js';
import { board } from '../database/schema.js';
import { spansSince } from '../link-history/spans.js';
import { allRounds, linksOf } from './store.js';
import type { Round } from './store.js';

const dayMs = 86_400_000;
const mostRows = 300;
/** A line on a page has no room for more. */
const mostStretches = 400;
/** Of longer periods each link’s months are told. */
const fewestDaysInMonths = 60;

interface Wish {
  readonly days: number;
  readonly find: string;
  /** Only these; absent: all. */
  readonly linkIds?: readonly string[];
}

/** How the links that fit were over the last days. */
export async function timelineOf(db: Database, { days, find, linkIds }: Wish): Promise<TimelineView> {
  const to = Date.now();
  const from = to - days * dayMs;
  const rounds = (await allRounds(db)).filter(({ isPaused }) => !isPaused);
  const [fitting, holds] = await Promise.all([
    db
      .select({ linkId: board.linkId, name: board.name, kind: board.kind, state: board.state })
      .from(board)
      .where(and(hasWords(board.search, find), ofThese(board.linkId, linkIds)))
      .orderBy(board.name),
    holdsOf(db, rounds),
  ]);
  const longest = Math.max(usualHoldMs, ...holds.values());
  const spans = await spansSince(db, from - longest);
  const all = fitting.map(({ linkId, ...rest }) => {
    const stretches = stretchesOf(spans.get(linkId) ?? [], { from, to }, holds.get(linkId));
    return { linkId, ...rest, availability: availabilityOf([stretches]), stretches };
  });
  const stretches = all.map((one) => one.stretches);
  const zone = rounds[0]?.zone ?? 'UTC';
  const midnights = midnightsOf(from, to, zone);
  const months = days < fewestDaysInMonths ? [] : monthsAmong(midnights, zone);
  const rows = [...all]
    .sort((one, other) => (one.availability.usable ?? 1) - (other.availability.usable ?? 1))
    .slice(0, mostRows);
  return {
    from,
    to,
    links: all.length,
    rows: rows.map((row) => ({ ...row, stretches: drawn(row.stretches), months: told([row.stretches], months) })),
    availability: availabilityOf(stretches),
    days: told(stretches, midnights),
  };
}

const told = (links: readonly (readonly Stretch[])[], bounds: readonly number[]): TimelineView['days'] =>
  sharesOf(links, bounds).map(({ from, ms }) => ({ from, ms: { ...ms } }));

/** How long what a check saw holds, by link: of those that no round checks, as long as usual. */
async function holdsOf(db: Database, rounds: readonly Round[]): Promise<ReadonlyMap<string, number>> {
  const holds = new Map<string, number>();
  for (const round of rounds) {
    const holdMs = holdOf(round.everyMinutes) + quietMs(round);
    for (const linkId of await linksOf(db, round.scope))
      holds.set(linkId, Math.min(holds.get(linkId) ?? Number.POSITIVE_INFINITY, holdMs));
  }
  return holds;
}

/** In quiet hours nobody looks, and what was seen before them holds. */
function quietMs({ quiet }: Round): number {
  if (!quiet) return 0;
  const [from, to] = [quiet.from, quiet.to].map((time) => Number(time.slice(0, 2)) * 60 + Number(time.slice(3)));
  const minutes = ((to ?? 0) - (from ?? 0) + 1440) % 1440 || 1440;
  return minutes * 60_000;
}

/** Midnights around a period, by the clock of a zone. */
function midnightsOf(from: number, to: number, zone: string): readonly number[] {
  const times = { everyMinutes: 1440, at: '00:00', quiet: null, zone } as const;
  const midnights = [from];
  for (let next = nextRound(times, from); next !== null && next < to; next = nextRound(times, next))
    midnights.push(next);
  return [...midnights, to];
}

/** Both ends of a period, and the midnights at which months begin. */
function monthsAmong(midnights: readonly number[], zone: string): readonly number[] {
  const dayOf = new Intl.DateTimeFormat('en-GB', { timeZone: zone, day: 'numeric' });
  return midnights.filter(
    (midnight, index) => index === 0 || index === midnights.length - 1 || dayOf.format(midnight) === '1',
  );
}

function drawn(stretches: readonly Stretch[]): TimelineRow['stretches'] {
  return stretches.slice(-mostStretches).map(({ state, to }) => ({ state, to }));
}
