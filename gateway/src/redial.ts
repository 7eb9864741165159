const soonestMs = 250;
const latestMs = 15_000;
/** Who was refused is not tried again for so long: an account could get locked. */
const refusedMs = 15 * 60_000;

/** Dials again whenever something is gone, later each time, until it was there once. */
export class Redial {
  private waitMs = soonestMs;
  private timer: NodeJS.Timeout | null = null;
  private isOver = false;

  constructor(private readonly dial: () => void) {}

  /** @param wasRefused whether its user was: then it waits for long; with another password, it is another source */
  later(wasRefused = false): void {
    if (this.isOver || this.timer) return;
    const wait = wasRefused ? refusedMs : this.waitMs * (0.75 + Math.random() / 2);
    this.waitMs = Math.min(this.waitMs * 2, latestMs);
    this.timer = setTimeout(() => {
      this.timer = null;
      this.dial();
    }, wait);
  }

  wasThere(): void {
    this.waitMs = soonestMs;
  }

  stop(): void {
    this.isOver = true;
    if (this.timer) clearTimeout(this.timer);
  }
}
