/**
 * The clock of a night that is played: this whole process goes by it, the libraries that judge certificates among it. It is set
 * forward from one scene to the next, and runs as usual between.
 */
const RealDate = Date;
let aheadMs = 0;

class NightDate extends RealDate {
  constructor(...given: readonly unknown[]) {
    if (given.length === 0) super(RealDate.now() + aheadMs);
    else super(...(given as [number]));
  }

  static override now(): number {
    return RealDate.now() + aheadMs;
  }
}
globalThis.Date = NightDate as DateConstructor;

/** From now on it is this time. @param time milliseconds since 1970 */
export function setClock(time: number): void {
  if (time < Date.now() && aheadMs !== 0) throw new RangeError('The clock of a night goes forward only.');
  aheadMs = time - RealDate.now();
}

const begun = performance.now();
const begunAt = RealDate.now();

/** Microseconds since 1970, never twice the same. */
export function microsecondsNow(): number {
  const now = Math.round((begunAt + performance.now() - begun + aheadMs) * 1000);
  last = Math.max(last + 1, now);
  return last;
}
let last = 0;

const dayMs = 86_400_000;
const nightEndsAt = 7 * 3_600_000;
/** Midnight of the last night that is over, by the clock of UTC. */
const midnight = Math.floor((RealDate.now() - nightEndsAt) / dayMs) * dayMs;

/** A time of the last night that is over, such as `02:10` or `23:31:05`, in milliseconds since 1970: what is later than noon was the evening before. */
export function atNight(time: string): number {
  const [hours = 0, minutes = 0, seconds = 0] = time.split(':').map(Number);
  const ofDay = ((hours * 60 + minutes) * 60 + seconds) * 1000;
  return midnight + ofDay - (hours >= 12 ? dayMs : 0);
}
