import { OctetReader } from '../octets/reader.js';
import { OctetWriter } from '../octets/writer.js';

/** The first referent; any number that isn’t 0 would do. */
const firstReferent = 0x00020000;
/** Pointers within pointers, deeper than anything that is wanted here. */
const deepest = 32;

/** Reads NDR (C706, chapter 14): what pointers point to comes after what holds them. */
export class NdrReader extends OctetReader {
  private later: (() => void)[] = [];
  private depth = 0;

  /** Remembers what a pointer points to. */
  defer(read: () => void): void {
    this.later.push(read);
  }

  /** Reads what pointers have pointed to until now, each followed by what it points to itself (C706 14.3.12.3). */
  settle(): void {
    if (++this.depth > deepest) throw this.fault('Pointers lie too deep in one another.');
    const now = this.later;
    this.later = [];
    for (const read of now) {
      read();
      this.settle();
    }
    this.depth -= 1;
  }

  /**
   * A number of elements.
   * @param octets what each element takes at least: more of them than could be there are not believed
   */
  count(octets: number): number {
    this.align(4);
    const count = this.u32();
    if (count * octets > this.left)
      throw this.fault(`${count} elements are announced, and ${this.left} octets are left.`);
    return count;
  }
}

/** Writes NDR. */
export class NdrWriter extends OctetWriter {
  private later: (() => void)[] = [];
  private referent = firstReferent;

  defer(write: () => void): void {
    this.later.push(write);
  }

  settle(): void {
    const now = this.later;
    this.later = [];
    for (const write of now) {
      write();
      this.settle();
    }
  }

  nextReferent(): number {
    this.referent += 4;
    return this.referent;
  }
}
