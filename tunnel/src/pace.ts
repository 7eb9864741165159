import { Transform } from 'node:stream';

/** Lets so many bytes through a second, after a burst of a tenth of a second’s worth. */
export class Pace {
  private freeAt = 0;

  constructor(private readonly bytesPerSecond: number) {}

  /** Takes room for bytes. @returns after how many milliseconds they may go */
  take(bytes: number, now: number): number {
    const begin = Math.max(this.freeAt, now - 100);
    this.freeAt = begin + (bytes / this.bytesPerSecond) * 1000;
    return Math.max(0, begin - now);
  }
}

/** Passes bytes on no faster than all of some paces allow. */
export function paced(paces: readonly Pace[]): Transform {
  return new Transform({
    transform(bytes: Buffer, _, done) {
      const wait = Math.max(...paces.map((pace) => pace.take(bytes.length, Date.now())));
      if (wait <= 0) return done(null, bytes);
      setTimeout(() => done(null, bytes), wait);
    },
  });
}
