import type { LinkState } from '../../links/assess.js';

/** How a link was seen by checks: the same from the first to the last of them. */
export interface SeenSpan {
  readonly linkId: string;
  readonly state: LinkState;
  /** null: nothing leads. */
  readonly causeId: string | null;
  /** Milliseconds since 1970: of its first check and of its last. */
  readonly from: number;
  readonly to: number;
  readonly checks: number;
}

/** A part of a period in which a link was taken to be in one state. */
export interface Stretch {
  readonly state: LinkState;
  readonly causeId: string | null;
  readonly from: number;
  readonly to: number;
}

/** After so long without a check nobody knows how a link is, where no rounds say how often it is looked at. */
export const usualHoldMs = 24 * 3_600_000;

/** What a check saw holds until rounds should have come twice, and ten minutes for their own way. */
export const holdOf = (everyMinutes: number): number => (2 * everyMinutes + 10) * 60_000;

/**
 * How a link was over a period, without a gap: what a check saw holds until the next one, but no longer than `holdMs`;
 * after that it is `Untried`.
 * @param spans of one link, in the order of their times
 */
export function stretchesOf(
  spans: readonly SeenSpan[],
  period: { readonly from: number; readonly to: number },
  holdMs = usualHoldMs,
): readonly Stretch[] {
  const stretches: Stretch[] = [];
  let reached = period.from;
  const add = (state: LinkState, causeId: string | null, to: number): void => {
    const until = Math.min(to, period.to);
    if (until <= reached) return;
    const last = stretches.at(-1);
    if (last?.state === state && last.causeId === causeId) stretches[stretches.length - 1] = { ...last, to: until };
    else stretches.push({ state, causeId, from: reached, to: until });
    reached = until;
  };
  spans.forEach(({ state, causeId, from, to }, index) => {
    add('Untried', null, from);
    const next = spans[index + 1]?.from ?? Number.POSITIVE_INFINITY;
    add(state, causeId, Math.min(next, to + holdMs));
  });
  add('Untried', null, period.to);
  return stretches;
}

/** How much of a period links could be used. */
export interface Availability {
  /** Milliseconds of it in which the link’s state was known. */
  readonly knownMs: number;
  readonly soundMs: number;
  readonly strainedMs: number;
  readonly partedMs: number;
  /** From 0 to 1, of the time in which it was known; null: it never was. */
  readonly usable: number | null;
  /** From 0 to 1: how much of the period its state was known. */
  readonly known: number;
  /** How often it fell: parted after it was not. */
  readonly falls: number;
}

/** @param links the stretches of each link: their times are added up */
export function availabilityOf(links: readonly (readonly Stretch[])[]): Availability {
  const stretches = links.flat();
  const sum = (wanted: LinkState): number =>
    stretches.reduce((all, { state, from, to }) => (state === wanted ? all + to - from : all), 0);
  const [soundMs, strainedMs, partedMs] = [sum('Sound'), sum('Strained'), sum('Parted')];
  const knownMs = soundMs + strainedMs + partedMs;
  const wholeMs = knownMs + sum('Untried');
  return {
    knownMs,
    soundMs,
    strainedMs,
    partedMs,
    usable: knownMs === 0 ? null : (soundMs + strainedMs) / knownMs,
    known: wholeMs === 0 ? 0 : knownMs / wholeMs,
    falls: links.reduce((all, one) => all + fallsIn(one), 0),
  };
}

const fallsIn = (stretches: readonly Stretch[]): number =>
  stretches.filter(
    ({ state }, index) =>
      state === 'Parted' && ['Sound', 'Strained'].includes(stretches[index - 1]?.state ?? 'Untried'),
  ).length;

/** The moment at which a link was seen to work after another one; null: it wasn’t. */
export function provedAfter(spans: readonly SeenSpan[], after: number): number | null {
  for (const { state, from, to } of spans) {
    if (to <= after || (state !== 'Sound' && state !== 'Strained')) continue;
    return from > after ? from : to;
  }
  return null;
}

/** How links were over a part of a period, as a day or a month. */
export interface TimeShare {
  /** Milliseconds since 1970 at its beginning. */
  readonly from: number;
  /** Milliseconds of all links together, by state. */
  readonly ms: Readonly<Record<LinkState, number>>;
}

/**
 * Adds what links went through to the days, or the months, in which it was.
 * @param bounds in their order; the last one is the end of the last part
 */
export function sharesOf(links: readonly (readonly Stretch[])[], bounds: readonly number[]): readonly TimeShare[] {
  const parts = bounds.slice(0, -1).map((from) => ({
    from,
    ms: { Sound: 0, Strained: 0, Parted: 0, Untried: 0 } satisfies Record<LinkState, number>,
  }));
  for (const stretches of links) {
    let part = 0;
    for (const { state, from, to } of stretches) {
      while (part > 0 && (bounds[part] ?? 0) > from) part -= 1;
      for (; part < parts.length; part += 1) {
        const [begin, end] = [bounds[part] ?? 0, bounds[part + 1] ?? 0];
        const known = parts[part];
        if (known) known.ms[state] += Math.max(0, Math.min(to, end) - Math.max(from, begin));
        if (end >= to) break;
      }
    }
  }
  return parts;
}

/** From 0 to 1, how much of the time in which it was known links could be used; null: it never was. */
export function usableIn({ ms: { Sound, Strained, Parted } }: TimeShare): number | null {
  const known = Sound + Strained + Parted;
  return known === 0 ? null : (Sound + Strained) / known;
}
