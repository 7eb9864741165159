import { extent } from 'd3-array';
import { scaleLinear, scaleTime } from 'd3-scale';
import type { ScaleLinear, ScaleTime } from 'd3-scale';

/** Where an axis begins and ends, in the picture’s own units. */
export type Reach = readonly [from: number, to: number];

export interface Tick {
  readonly at: number;
  readonly text: string;
}

/** A scale over values, of which some may be missing; also where all are the same, or there is none. */
export function valueScale(values: Iterable<number | null>, reach: Reach): ScaleLinear<number, number> {
  const [low = 0, high = low + 1] = extent([...values].filter((value) => value !== null));
  return scaleLinear([low, high === low ? low + 1 : high], [...reach]);
}

/** Levels of a scale, in the digits that tell them apart. */
export function levelsOf(
  scale: ScaleLinear<number, number>,
  about: number,
  say: (value: number) => string = scale.tickFormat(about),
): Tick[] {
  return scale.ticks(about).map((level) => ({ at: scale(level), text: say(level) }));
}

/** A scale over moments, in milliseconds since 1970; also where there is one alone, or none. */
export function timeScale(moments: Iterable<number>, reach: Reach): ScaleTime<number, number> {
  const [from = 0, to = from + 1] = extent(moments);
  return scaleTime([from, to === from ? from + 1 : to], [...reach]);
}

const hour = { hour: '2-digit', minute: '2-digit' } as const;
const formats = {
  short: new Intl.DateTimeFormat('en-GB', { ...hour, second: '2-digit' }),
  hours: new Intl.DateTimeFormat('en-GB', hour),
  days: new Intl.DateTimeFormat('en-GB', { ...hour, day: 'numeric', month: 'short' }),
};
const hourMs = 3_600_000;

/** The longer the span, the coarser its times are told. */
const formatOf = (spanMs: number): Intl.DateTimeFormat =>
  spanMs < hourMs ? formats.short : spanMs < 24 * hourMs ? formats.hours : formats.days;

/** Moments of a scale; two that read the same are told once. */
export function momentsOf(scale: ScaleTime<number, number>, about: number): Tick[] {
  const [from, to] = scale.domain();
  const format = formatOf((to?.getTime() ?? 0) - (from?.getTime() ?? 0));
  const told = new Map<string, Tick>();
  for (const moment of scale.ticks(about)) {
    const text = format.format(moment);
    if (!told.has(text)) told.set(text, { at: scale(moment), text });
  }
  return [...told.values()];
}
