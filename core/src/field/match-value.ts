import { simplicityOf, snapped } from './plain-numbers.js';

const { isNaN, isFinite } = Number;
const { abs } = Math;

/** A server’s value may be some samples old: it polls, and doesn’t ask when we do. */
const mostLag = 3;
const leastExplained = 0.6;
/** Of fewer values, two samples in a row have the same one too often to tell anything. */
const leastValuesToWander = 8;
/** A straight line goes through any two points: two values more must lie on it. */
const leastValuesOnLine = 4;
/** What rounding in a server may add or take, as a share of the value’s range. */
const roundingShare = 2e-4;
/** What moves faster than it is sampled is never seen with just the value that the server had: it is near where it is no further off than the value moves from sample to sample, so often. */
const [nearSteps, leastNear, mostNearShare] = [3, 0.9, 0.2];

/** How well a straight line of a register’s raw numbers explains a value. */
export interface Match {
  readonly scale: number;
  readonly offset: number;
  readonly lag: number;
  readonly explained: number;
  readonly compared: number;
  readonly changes: number;
  /** How far off it is on average, where it is no more than near; null: it explains values as they are. */
  readonly off: number | null;
}

/** A value that is to be explained by registers. */
export class ValueToMatch {
  private readonly tolerance: number;
  private readonly distinct: number;
  /** How far the value moves from one sample to the next, in the middle. */
  private readonly step: number;
  /** For each lag the pairs of samples through which lines are laid: the lowest with the highest, and those a quarter in. */
  private readonly pairs: readonly (readonly (readonly [number, number])[])[];

  constructor(private readonly values: readonly number[]) {
    const finite = values.filter(isFinite);
    const [least, most] = [Math.min(...finite), Math.max(...finite)];
    this.tolerance = Math.max((most - least) * roundingShare, abs(most) * 1e-6, 1e-9);
    this.distinct = new Set(finite).size;
    const steps = finite.slice(1).map((value, index) => abs(value - (finite[index] ?? value)));
    this.step = steps.sort((left, right) => left - right)[steps.length >> 1] ?? 0;
    const ascending = values.map((_, index) => index).sort((left, right) => at(values, left) - at(values, right));
    this.pairs = Array.from({ length: mostLag + 1 }, (_, lag) => {
      const told = ascending.filter((index) => index >= lag && isFinite(at(values, index)));
      return [0, 0.25].map((share) => {
        const last = told.length - 1;
        return [told[Math.floor(share * last)] ?? 0, told[Math.ceil((1 - share) * last)] ?? 0] as const;
      });
    });
  }

  matchBool(raw: Float64Array): Match | null {
    let best: Match | null = null;
    for (let lag = 0; lag <= mostLag; lag += 1) best = better(best, this.held(raw, 1, 0, lag));
    return best;
  }

  /** The best straight line of a register’s raw numbers that explains the value. */
  match(raw: Float64Array): Match | null {
    // What never moves explains nothing that moves.
    if (this.distinct > 1 && raw.every((number) => number === raw[0])) return null;
    let best: Match | null = null;
    for (let lag = 0; lag <= mostLag; lag += 1) {
      best = better(best, this.through(raw, lag, lag));
      best = better(best, this.through(raw, lag, (lag + this.values.length) >> 1));
      if (this.distinct >= leastValuesOnLine)
        for (const [low, high] of this.pairs[lag] ?? []) best = better(best, this.between(raw, lag, low, high));
      if (best && best.explained === best.compared) return best;
    }
    return best && this.wandering(raw, best);
  }

  /** A register that is never far from the value, as it is or by a power of ten. */
  near(raw: Float64Array): Match | null {
    const level = abs(at(this.values, this.values.length >> 1));
    // Near is only what is nearer than to nothing.
    if (this.step === 0 || nearSteps * this.step > mostNearShare * level) return null;
    const middle = raw.length >> 1;
    const power = Math.round(Math.log10(abs(at(this.values, middle) / at(raw, middle))));
    if (!isFinite(power) || abs(power) > 9) return null;
    const scale = Number(`1e${power}`);
    let [close, compared, sum, explained] = [0, 0, 0, 0];
    const [least, most] = [raw.length * (1 - leastNear), nearSteps * this.step];
    for (let index = 0; index < raw.length; index += 1) {
      const off = abs(at(raw, index) * scale - at(this.values, index));
      if (isNaN(off)) continue;
      compared += 1;
      sum += off;
      if (off <= most) close += 1;
      else if (compared - close > least) return null;
      if (off <= this.tolerance) explained += 1;
    }
    return compared >= leastValuesOnLine && close / compared >= leastNear
      ? { scale, offset: 0, lag: 0, explained, compared, changes: 0, off: sum / compared }
      : null;
  }

  /** A line through nothing and one sample. */
  private through(raw: Float64Array, lag: number, index: number): Match | null {
    const number = at(raw, index - lag);
    if (number === 0) return null;
    const exact = at(this.values, index) / number;
    if (exact === 0 || !isFinite(exact) || !this.held(raw, exact, 0, lag)) return null;
    const scale = snapped(exact, this.tolerance / abs(number));
    const match = this.held(raw, scale, 0, lag);
    return match && (simplicityOf(scale) <= 1 || this.isOnLine(raw, match)) ? match : null;
  }

  private between(raw: Float64Array, lag: number, low: number, high: number): Match | null {
    const [from, to] = [at(raw, low - lag), at(raw, high - lag)];
    const span = abs(to - from);
    if (!(span > 0)) return null;
    const exact = (at(this.values, high) - at(this.values, low)) / (to - from);
    if (exact === 0 || !isFinite(exact) || !this.held(raw, exact, at(this.values, low) - exact * from, lag))
      return null;
    // Plain numbers are what somebody set; which ones they are is only worth telling where the line fits at all.
    const scale = snapped(exact, (2 * this.tolerance) / span);
    const offset = snapped(at(this.values, low) - scale * from, this.tolerance);
    const match = this.held(raw, scale, offset, lag);
    return match && this.isOnLine(raw, match) ? match : null;
  }

  /** A server’s turn comes now a little before a sample, now a little after it: what it shows is one sample older at times. */
  private wandering(raw: Float64Array, best: Match): Match {
    if (this.distinct < leastValuesToWander) return best;
    const { scale, offset, lag } = best;
    const earlier = lag > 0 ? this.held(raw, scale, offset, lag - 1, 1) : null;
    return better(better(best, this.held(raw, scale, offset, lag, 1)), earlier) ?? best;
  }

  /** @param wander by so many samples more the value may be older, each time anew */
  private held(raw: Float64Array, scale: number, offset: number, lag: number, wander = 0): Match | null {
    let [explained, compared, changes, missed] = [0, 0, 0, 0];
    let agreed = false;
    const mostMissed = (this.values.length - lag) * (1 - leastExplained);
    for (let index = lag; index < this.values.length; index += 1) {
      const value = at(this.values, index);
      const number = at(raw, index - lag);
      if (isNaN(number)) {
        agreed = false;
        missed += 1;
        if (missed > mostMissed) return null;
        continue;
      }
      compared += 1;
      let agrees = abs(number * scale + offset - value) <= this.tolerance;
      for (let more = 1; !agrees && more <= wander && index - lag - more >= 0; more += 1)
        agrees = abs(at(raw, index - lag - more) * scale + offset - value) <= this.tolerance;
      if (agrees) {
        explained += 1;
        if (agreed && value !== this.values[index - 1]) changes += 1;
      } else if ((missed += 1) > mostMissed) return null;
      agreed = agrees;
    }
    return compared > 0 ? { scale, offset, lag, explained, compared, changes, off: null } : null;
  }

  /** Enough values of their own lie on a line. */
  private isOnLine(raw: Float64Array, { scale, offset, lag }: Match): boolean {
    const on = new Set<number>();
    for (let index = lag; index < this.values.length && on.size < leastValuesOnLine; index += 1) {
      const value = at(this.values, index);
      if (abs(at(raw, index - lag) * scale + offset - value) <= this.tolerance) on.add(value);
    }
    return on.size >= leastValuesOnLine;
  }
}

const at = (numbers: ArrayLike<number>, index: number): number => numbers[index] ?? NaN;

export const shareOf = ({ explained, compared }: Match): number => explained / compared;
/** What was tried later must be clearly better: it takes more for granted. */
const better = (best: Match | null, other: Match | null): Match | null =>
  best && other ? (shareOf(other) > shareOf(best) + 0.02 ? other : best) : (best ?? other);
