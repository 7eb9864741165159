import type { Budget } from './budget.js';

export interface StreamEar {
  /** The next bytes: those from `begin` to `end` of these. They are only there during the call. */
  hear(bytes: Uint8Array, begin: number, end: number): void;
  /** So many bytes are missing here. */
  miss(count: number): void;
}

/** Bytes that have come before those that stand in front of them; null: they were on the wire, and not recorded. */
interface Piece {
  readonly from: number;
  readonly to: number;
  readonly bytes: Uint8Array | null;
}
interface Hole {
  from: number;
  to: number;
}

const mostAhead = 1 << 20;
const mostPieces = 1024;
const mostHoles = 64;
/** What a piece costs beside its bytes. */
const pieceBytes = 320;
/** Bytes that the receiver has acknowledged and that were never recorded are given up after so much has come behind them. */
const patienceBytes = 64 * 1024;
const patiencePieces = 32;
const patienceMicroseconds = 200_000;
const costOf = (bytes: Uint8Array | null): number => pieceBytes + (bytes?.length ?? 0);
/** A sequence number that is further away belongs to no window that there is (RFC 7323 §2.3). */
const farthest = 1 << 30;

/**
 * Puts what one side of a connection has sent into its order (RFC 9293 §3.4): repeated bytes go on once, what came first stays,
 * what came too early waits, and a gap is told once it can't be filled any more. Places are counted from the first byte.
 */
export class SentBytes {
  /** Payload without repeats, recorded or not. */
  bytes = 0;
  /** Whether bytes were never seen, or not recorded. */
  hasGaps = false;
  private hasBegun = false;
  /** Of `next`, the sequence number. */
  private nextSequence = 0;
  private next = 0;
  private readonly ahead: Piece[] = [];
  private aheadBytes = 0;
  private waitsSince = 0;
  private acknowledged = -1;
  /** What was passed over and may still come. */
  private holes: Hole[] | null = null;

  constructor(private readonly budget: Budget) {}

  /** The sequence number of the first byte is known. */
  begin(sequence: number): void {
    if (this.hasBegun) return;
    this.hasBegun = true;
    this.nextSequence = sequence >>> 0;
  }

  get isBegun(): boolean {
    return this.hasBegun;
  }

  /** The receiver has all bytes before this sequence number. */
  acknowledge(sequence: number, at: number, ear: StreamEar): void {
    if (!this.hasBegun) return;
    const to = this.place(sequence);
    if (to > this.acknowledged && to - this.next < farthest) this.acknowledged = to;
    if (this.ahead.length > 0) this.passGaps(at, ear);
  }

  /** Whether all that was seen has been acknowledged. */
  get isAcknowledged(): boolean {
    return this.bytes === 0 || this.acknowledged >= this.next;
  }

  /**
   * Takes the payload of a segment.
   * @param begin where what was recorded of it begins in the bytes
   * @param end where that ends
   * @param length its bytes on the wire
   */
  take(
    sequence: number,
    bytes: Uint8Array,
    begin: number,
    end: number,
    length: number,
    at: number,
    ear: StreamEar,
  ): void {
    if (length === 0) return;
    if (!this.hasBegun) {
      this.begin(sequence);
      /* Without a beginning, what was sent shortly before may still come. */
      this.holes = [{ from: -mostAhead, to: 0 }];
    }
    const from = this.place(sequence);
    if (from === this.next && this.ahead.length === 0) return this.deliver(bytes, begin, end, length, ear);
    if (Math.abs(from - this.next) > farthest) return;
    const to = from + length;
    if (from < this.next) this.fillHoles(from, Math.min(to, this.next));
    if (to <= this.next) return;
    const recorded = bytes.subarray(begin, end);
    if (this.keep(Math.max(from, this.next), to, from, recorded, at)) this.goOn(at, ear);
    else this.goOnWithout(from, to, recorded, ear);
  }

  /** Nothing more comes: what waits goes on, with its gaps. */
  end(ear: StreamEar): void {
    while (this.ahead.length > 0) this.pass(ear);
  }

  private place(sequence: number): number {
    return this.next + ((sequence - this.nextSequence) | 0);
  }

  private deliver(bytes: Uint8Array, begin: number, end: number, length: number, ear: StreamEar): void {
    this.bytes += length;
    this.forward(length);
    const recorded = end - begin;
    if (recorded > 0) ear.hear(bytes, begin, end);
    if (recorded < length) {
      this.hasGaps = true;
      ear.miss(length - recorded);
    }
  }

  private forward(count: number): void {
    this.next += count;
    this.nextSequence = (this.nextSequence + count) >>> 0;
  }

  /**
   * Keeps what of a segment is new, until what stands before it has come.
   * @returns false where there was no room for all of it
   */
  private keep(from: number, to: number, segmentFrom: number, recorded: Uint8Array, at: number): boolean {
    if (this.ahead.length === 0) this.waitsSince = at;
    let begin = from;
    let index = this.indexBehind(from);
    while (begin < to) {
      const other = this.ahead[index];
      if (other && other.from <= begin) {
        begin = Math.max(begin, other.to);
        index += 1;
        continue;
      }
      /* What was recorded and what was not are two pieces. */
      const known = segmentFrom + recorded.length;
      const end = Math.min(to, other?.from ?? to, begin < known ? known : to);
      const bytes = begin < known ? recorded.subarray(begin - segmentFrom, end - segmentFrom) : null;
      if (!this.budget.take(costOf(bytes))) return false;
      this.ahead.splice(index, 0, { from: begin, to: end, bytes: bytes && bytes.slice() });
      this.bytes += end - begin;
      this.aheadBytes += end - begin;
      index += 1;
      begin = end;
    }
    return true;
  }

  /** Without room nothing waits any more: all that is there goes on, with its gaps, and the segment behind it. */
  private goOnWithout(from: number, to: number, recorded: Uint8Array, ear: StreamEar): void {
    this.end(ear);
    if (from > this.next) this.missUpTo(from, ear);
    if (to <= this.next) return;
    const { length } = recorded;
    this.deliver(recorded, Math.min(this.next - from, length), length, to - this.next, ear);
  }

  /** The first piece that ends behind a place. */
  private indexBehind(place: number): number {
    let low = 0;
    let high = this.ahead.length;
    while (low < high) {
      const middle = (low + high) >>> 1;
      if ((this.ahead[middle]?.to ?? 0) > place) high = middle;
      else low = middle + 1;
    }
    return low;
  }

  private goOn(at: number, ear: StreamEar): void {
    this.deliverWaiting(ear);
    while (this.aheadBytes > mostAhead || this.ahead.length > mostPieces) this.pass(ear);
    if (this.ahead.length > 0) this.passGaps(at, ear);
  }

  private deliverWaiting(ear: StreamEar): void {
    let count = 0;
    for (const piece of this.ahead) {
      if (piece.from !== this.next) break;
      count += 1;
      this.forward(piece.to - piece.from);
      this.aheadBytes -= piece.to - piece.from;
      this.budget.give(costOf(piece.bytes));
      if (piece.bytes) ear.hear(piece.bytes, 0, piece.bytes.length);
      else {
        this.hasGaps = true;
        ear.miss(piece.to - piece.from);
      }
    }
    if (count > 0) this.ahead.splice(0, count);
  }

  /** What the receiver has, and nobody recorded, won’t come again. */
  private passGaps(at: number, ear: StreamEar): void {
    const isPatient =
      this.aheadBytes < patienceBytes &&
      this.ahead.length < patiencePieces &&
      at - this.waitsSince < patienceMicroseconds;
    if (isPatient) return;
    while (this.ahead[0] && this.acknowledged >= this.ahead[0].from) this.pass(ear);
  }

  /** Gives up what is missing before the first piece that waits. */
  private pass(ear: StreamEar): void {
    const [first] = this.ahead;
    if (!first) return;
    if (first.from > this.next) this.missUpTo(first.from, ear);
    this.deliverWaiting(ear);
  }

  private missUpTo(place: number, ear: StreamEar): void {
    const missing = place - this.next;
    this.holes ??= [];
    if (this.holes.length === mostHoles) this.holes.shift();
    this.holes.push({ from: this.next, to: place });
    this.hasGaps = true;
    this.forward(missing);
    ear.miss(missing);
  }

  /** Bytes that were passed over and come late are counted, once; whoever listens has gone on. */
  private fillHoles(from: number, to: number): void {
    if (!this.holes) return;
    const left: Hole[] = [];
    for (const hole of this.holes) {
      const begin = Math.max(from, hole.from);
      const end = Math.min(to, hole.to);
      if (begin >= end) {
        left.push(hole);
        continue;
      }
      this.bytes += end - begin;
      if (hole.from < begin) left.push({ from: hole.from, to: begin });
      if (end < hole.to) left.push({ from: end, to: hole.to });
    }
    this.holes = left.slice(-mostHoles);
  }
}
