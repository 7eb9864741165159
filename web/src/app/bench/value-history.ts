import { Injectable } from '@angular/core';

/** A value as it is drawn; NaN: from there on nothing is known for a while. */
export interface Point {
  /** Milliseconds since 1970. */
  readonly at: number;
  readonly value: number;
}

/** The newest points, in memory of a fixed size. */
export class PointRing {
  private readonly times: Float64Array;
  private readonly values: Float64Array;
  private pushed = 0;

  constructor(readonly length: number) {
    this.times = new Float64Array(length);
    this.values = new Float64Array(length);
  }

  push(at: number, value: number): void {
    this.times[this.pushed % this.length] = at;
    this.values[this.pushed % this.length] = value;
    this.pushed += 1;
  }

  /** The newest points, the oldest of them first. */
  newest(most = this.length): Point[] {
    const count = Math.min(most, this.pushed, this.length);
    return Array.from({ length: count }, (_, index) => {
      const place = (this.pushed - count + index) % this.length;
      return { at: this.times[place] ?? NaN, value: this.values[place] ?? NaN };
    });
  }

  get isEmpty(): boolean {
    return this.pushed === 0;
  }
}

/** Ten minutes at two values a second, where few items are watched. */
const longest = 1200;
/** A minute at four a second, where many are. */
const shortest = 240;
/** Of all items together: 16 bytes each. */
const budget = 1_200_000;

/** Values of the watched items as they went. They change too often, and are too many, for a state that is made anew each time. */
@Injectable({ providedIn: 'root' })
export class ValueHistory {
  private readonly rings = new Map<string, PointRing>();

  push(key: string, at: number, value: number): void {
    const ring = this.rings.get(key) ?? new PointRing(this.lengthOfNext());
    this.rings.set(key, ring);
    ring.push(at, value);
  }

  /** Nothing is known of the time from then on: no line is drawn through it. */
  breakAt(at: number, isMeant: (key: string) => boolean): void {
    for (const [key, ring] of this.rings) if (isMeant(key)) ring.push(at, NaN);
  }

  newest(key: string, most?: number): Point[] {
    return this.rings.get(key)?.newest(most) ?? [];
  }

  /** Keeps the history of these, and of no others. */
  keepOnly(keys: ReadonlySet<string>): void {
    for (const key of this.rings.keys()) if (!keys.has(key)) this.rings.delete(key);
  }

  private lengthOfNext(): number {
    return Math.max(shortest, Math.min(longest, Math.floor(budget / (this.rings.size + 1))));
  }
}
