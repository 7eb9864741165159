import type { StandInItem } from './marrowby/index.js';

type Straying = Pick<StandInItem, 'mean' | 'swing'>;

/**
 * A value that strays around its mean as a process value does: drawn back in proportion to how far it is off,
 * and pushed by chance (Ornstein-Uhlenbeck).
 */
export class ProcessValue {
  private current: number;

  constructor(
    private readonly item: Straying,
    private readonly random: () => number = Math.random,
  ) {
    this.current = item.mean + (random() - 0.5) * item.swing;
  }

  /** The next value, rounded to what a transmitter would send. */
  next(): number {
    const { mean, swing } = this.item;
    const push = (this.random() + this.random() + this.random() - 1.5) * swing * 0.5;
    this.current += (mean - this.current) * 0.15 + push;
    const digits = swing < 0.05 ? 4 : swing < 1 ? 3 : 1;
    return Number(this.current.toFixed(digits));
  }
}
