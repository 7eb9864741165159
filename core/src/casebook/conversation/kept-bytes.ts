import type { Budget } from '../capture/budget.js';

/** Bytes of a message that comes in pieces, up to as many as are wanted of it. */
export class KeptBytes {
  private held = new Uint8Array();
  private filled = 0;

  constructor(private readonly budget: Pick<Budget, 'take' | 'give'>) {}

  get length(): number {
    return this.filled;
  }
  /** A view, until more is added. */
  get bytes(): Uint8Array {
    return this.held.subarray(0, this.filled);
  }

  /**
   * Adds what fits of some bytes.
   * @param most bytes that are wanted in all
   * @returns how many were added
   */
  add(bytes: Uint8Array, most: number): number {
    const count = Math.min(bytes.length, most - this.filled);
    if (count <= 0) return 0;
    if (this.filled + count > this.held.length && !this.grow(this.filled + count, most)) return 0;
    this.held.set(bytes.subarray(0, count), this.filled);
    this.filled += count;
    return count;
  }

  clear(): void {
    this.filled = 0;
    if (this.held.length <= smallBytes) return;
    this.budget.give(this.held.length);
    this.held = new Uint8Array();
  }

  /** Nothing is held any more. */
  end(): void {
    this.budget.give(this.held.length);
    this.held = new Uint8Array();
    this.filled = 0;
  }

  private grow(wanted: number, most: number): boolean {
    const size = Math.max(wanted, Math.min(most, Math.max(smallBytes, this.held.length * 2)));
    if (!this.budget.take(size - this.held.length)) return false;
    const larger = new Uint8Array(size);
    larger.set(this.bytes);
    this.held = larger;
    return true;
  }
}
const smallBytes = 128;
