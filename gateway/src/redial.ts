const soonestMs = 250;
const latestMs = 15_000;

/** Dials again whenever something is gone, later each time, until it was there once. */
export class Redial {
  private waitMs = soonestMs;
  private timer: NodeJS.Timeout | null = null;
  private isOver = false;

  constructor(private readonly dial: () => void) {}

  later(): void {
    if (this.isOver || this.timer) return;
    const wait = this.waitMs * (0.75 + Math.random() / 2);
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
