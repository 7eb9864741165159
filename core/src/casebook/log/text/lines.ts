import { decodedText, unitOf, Waiting } from './encoded-bytes.js';
import type { Encoding } from './encoded-bytes.js';

export interface LineEar {
  /** @param position where the line begins in the file, in bytes */
  line(text: string, position: number): void;
  /** Of a line that was longer than is read, the beginning was told. */
  tooLong(position: number, bytes: number): void;
}

const nothing = new Uint8Array();
/** Of a line so many bytes are read. */
export const longestLine = 64 * 1024;

/** Cuts a text that comes in parts into lines. A line has no end to wait for that would be too long: the rest of it is passed over. */
export class Lines {
  private readonly waiting = new Waiting(longestLine);
  private readonly unit: ReturnType<typeof unitOf>;
  private half: Uint8Array = nothing;
  private lineFrom: number;
  private position: number;

  constructor(
    private readonly encoding: Encoding,
    markBytes: number,
    private readonly ear: LineEar,
  ) {
    this.unit = unitOf(encoding);
    this.position = markBytes;
    this.lineFrom = markBytes;
  }

  /** The next part, without the mark at the beginning. */
  take(part: Uint8Array): void {
    const whole = this.unit.bytes === 1 ? part : this.even(part);
    let from = 0;
    for (let end = this.endIn(whole, 0); end >= 0; end = this.endIn(whole, from)) {
      this.finish(whole.subarray(from, end));
      from = end + this.unit.bytes;
      this.lineFrom = this.position + from;
    }
    this.waiting.add(whole.subarray(from));
    this.position += whole.length;
  }

  end(): void {
    if (this.position > this.lineFrom) this.finish(nothing);
  }

  /** Of a letter of two bytes the first waits for the second. */
  private even(part: Uint8Array): Uint8Array {
    const all = new Uint8Array(this.half.length + part.length);
    all.set(this.half);
    all.set(part, this.half.length);
    const count = all.length - (all.length % 2);
    this.half = all.slice(count);
    return all.subarray(0, count);
  }

  /** Where the next line feed begins; negative: there is none. */
  private endIn(part: Uint8Array, from: number): number {
    const { bytes, at: own } = this.unit;
    for (let at = part.indexOf(10, from); at >= 0; at = part.indexOf(10, at + 1)) {
      if (bytes === 1) return at;
      if (at % 2 === own && part[own === 0 ? at + 1 : at - 1] === 0) return at - own;
    }
    return -1;
  }

  private finish(rest: Uint8Array): void {
    const { waiting, lineFrom } = this;
    let bytes = rest.length > longestLine ? rest.subarray(0, longestLine) : rest;
    let isWhole = bytes.length === rest.length;
    if (waiting.length > 0) {
      isWhole = waiting.add(rest) && waiting.length < longestLine;
      bytes = waiting.bytes;
    }
    const text = decodedText(bytes, this.encoding);
    waiting.clear();
    this.ear.line(text.endsWith('\r') ? text.slice(0, -1) : text, lineFrom);
    if (!isWhole) this.ear.tooLong(lineFrom, longestLine);
  }
}
