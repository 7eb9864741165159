import type { Out } from './command.js';

const batchBytes = 1 << 16;
/** No letter takes more bytes in UTF-8, counted by JavaScript’s. */
const mostBytesOfLetter = 3;

/** Many lines by one write: a write costs more than a line. */
export class Batched {
  private readonly bytes = Buffer.alloc(batchBytes);
  private filled = 0;

  constructor(private readonly out: Out) {}

  line(text: string): void {
    this.add(text);
    this.add('\n');
  }

  /** A part of a line. */
  add(text: string): void {
    const most = text.length * mostBytesOfLetter;
    this.makeRoom(most);
    if (most > batchBytes) this.out.write(text);
    else this.filled += this.bytes.write(text, this.filled);
  }

  /**
   * A part of a line that is there in bytes, of which some are digits.
   * @param part fewer bytes than fit into one write
   * @param value goes into as many digits as there are places, from `from` to `to`
   */
  addWithDigits(part: Uint8Array, value: number, from: number, to: number): void {
    this.makeRoom(part.length);
    const { bytes, filled } = this;
    bytes.set(part, filled);
    let rest = value;
    for (let at = filled + to - 1; at >= filled + from; at -= 1) {
      const before = Math.floor(rest / 10);
      bytes[at] = 0x30 + (rest - before * 10);
      rest = before;
    }
    this.filled += part.length;
  }

  flush(): void {
    if (this.filled > 0) this.out.write(this.bytes.toString('utf8', 0, this.filled));
    this.filled = 0;
  }

  private makeRoom(count: number): void {
    if (this.filled + count > batchBytes) this.flush();
  }
}
