import type { Budget } from '../capture/budget.js';
import { u32At } from '../../ua/binary-reader.js';
import { KeptBytes } from '../conversation/kept-bytes.js';

/** Kinds of messages of UA TCP (Part 6 §6.7.2, §7.1.2). */
export const messageTypes = ['HEL', 'ACK', 'ERR', 'RHE', 'OPN', 'MSG', 'CLO'] as const;
export type MessageType = (typeof messageTypes)[number];

/** One chunk, or as much of it as was wanted. It is only there during the call, and filled anew for the next one. */
export class Chunk {
  type: MessageType = 'HEL';
  /** `F` the last of its message, `C` more follow, `A` the message is given up. */
  ending: 'F' | 'C' | 'A' = 'F';
  /** Bytes of the whole chunk. */
  size = 0;
  /** In these bytes what follows its first eight lies from `begin` to `end`. */
  bytes: Uint8Array = new Uint8Array();
  begin = 0;
  end = 0;

  /** What follows its first eight bytes. */
  get body(): Uint8Array {
    return this.bytes.subarray(this.begin, this.end);
  }
  /** Whether the body is all of it. */
  get isWhole(): boolean {
    return this.end - this.begin === this.size - headBytes;
  }
}

export interface ChunkEar {
  /** How many bytes of the body are wanted, now that those from `begin` to `end` are there: no more than these, or more. */
  wanted(type: MessageType, bytes: Uint8Array, begin: number, end: number): number;
  chunk(chunk: Chunk): void;
}

const headBytes = 8;
/** The largest chunk that is believed; peers agree upon 64 kB, mostly (Part 6 §7.1.2.3). */
const mostChunk = 256 << 20;
const mostKept = 128 << 10;

const byLetters = new Map(
  messageTypes.map(
    (type) => [(type.charCodeAt(0) << 16) | (type.charCodeAt(1) << 8) | type.charCodeAt(2), type] as const,
  ),
);

/** Most chunks are of services’ messages, and those alone come in several. */
const lettersOfMessage = 0x4d5347;

/** The type of the message that begins with four bytes; null: none does. */
export function messageTypeOf(bytes: Uint8Array, at: number): MessageType | null {
  const ending = bytes[at + 3];
  if (ending !== 0x46 && ending !== 0x43 && ending !== 0x41) return null;
  const letters = ((bytes[at] ?? 0) << 16) | ((bytes[at + 1] ?? 0) << 8) | (bytes[at + 2] ?? 0);
  if (letters === lettersOfMessage) return 'MSG';
  const type = byLetters.get(letters) ?? null;
  return ending === 0x46 ? type : null;
}

/**
 * Cuts what one end sends into chunks. Where bytes are missing, or something else comes, it goes on with the next place that begins
 * like one.
 */
export class Chunks {
  private readonly head = new Uint8Array(headBytes);
  private headFilled = 0;
  private readonly chunk = new Chunk();
  private left = 0;
  private wanted = 0;
  /** Whether its chunk was told: the rest of it is passed over. */
  private isTold = false;
  private readonly kept: KeptBytes;
  /** Bytes are passed over until something begins like a chunk. */
  isLost = false;
  /** How often the thread was lost. */
  losses = 0;

  constructor(
    private readonly ear: ChunkEar,
    budget: Pick<Budget, 'take' | 'give'>,
  ) {
    this.kept = new KeptBytes(budget);
  }

  /** Whether a chunk has begun and hasn’t ended. */
  get isAmid(): boolean {
    return !this.isLost && (this.headFilled > 0 || this.left > 0);
  }

  take(bytes: Uint8Array, begin: number, end: number): void {
    let at = begin;
    while (at < end) {
      if (this.left > 0) at = this.takeBody(bytes, at, end);
      else if (this.isLost) at = this.findNext(bytes, at, end);
      else at = this.takeHead(bytes, at, end);
    }
  }

  /** So many bytes are missing: within a chunk the next one is found all the same. */
  miss(count: number): void {
    if (this.isLost) return;
    if (this.left > 0 && count <= this.left) {
      if (!this.isTold) this.tellKept();
      this.left -= count;
      return;
    }
    this.lose();
  }

  end(): void {
    this.kept.end();
  }

  private lose(): void {
    this.isLost = true;
    this.losses += 1;
    this.headFilled = 0;
    this.left = 0;
    this.kept.clear();
  }

  private findNext(bytes: Uint8Array, from: number, end: number): number {
    for (let at = from; at + headBytes <= end; at += 1) {
      const first = bytes[at];
      if (first !== 0x4d && first !== 0x4f && first !== 0x43 && first !== 0x45) continue;
      if (messageTypeOf(bytes, at) === null) continue;
      const size = sizeIn(bytes, at);
      if (size < 12 || size > mostChunk) continue;
      this.isLost = false;
      return at;
    }
    return end;
  }

  /** A head that lies whole is read where it lies; of one in pieces the pieces are kept. */
  private takeHead(bytes: Uint8Array, at: number, end: number): number {
    if (this.headFilled === 0 && end - at >= headBytes) {
      this.begin(bytes, at);
      return at + headBytes;
    }
    const count = Math.min(headBytes - this.headFilled, end - at);
    this.head.set(bytes.subarray(at, at + count), this.headFilled);
    this.headFilled += count;
    if (this.headFilled === headBytes) this.begin(this.head, 0);
    return at + count;
  }

  private begin(bytes: Uint8Array, at: number): void {
    this.headFilled = 0;
    const type = messageTypeOf(bytes, at);
    const size = sizeIn(bytes, at);
    if (!type || size < headBytes || size > mostChunk) return this.lose();
    this.chunk.type = type;
    this.chunk.ending = endings[bytes[at + 3] ?? 0] ?? 'F';
    this.chunk.size = size;
    this.left = size - headBytes;
    this.isTold = false;
    this.wanted = this.wantedOf(bytes, at, at);
    if (this.left === 0) this.tell(bytes, at, at);
  }

  private wantedOf(bytes: Uint8Array, begin: number, end: number): number {
    const { type, size } = this.chunk;
    return Math.min(size - headBytes, this.ear.wanted(type, bytes, begin, end), mostKept);
  }

  /** @returns whether no more is wanted than what is there */
  private isEnough(bytes: Uint8Array, begin: number, end: number): boolean {
    const before = this.wanted;
    this.wanted = Math.max(before, this.wantedOf(bytes, begin, end));
    return this.wanted === before;
  }

  private tellKept(): void {
    const { bytes } = this.kept;
    this.tell(bytes, 0, bytes.length);
  }

  private takeBody(bytes: Uint8Array, at: number, to: number): number {
    const end = Math.min(at + this.left, to);
    if (!this.isTold) this.listen(bytes, at, end);
    this.left -= end - at;
    if (this.left === 0) this.finish();
    return end;
  }

  /** Tells a chunk as soon as there is as much of it as is wanted: where it lies, or from the pieces that were kept. */
  private listen(bytes: Uint8Array, from: number, end: number): void {
    if (this.kept.length === 0) {
      while (end - from >= this.wanted) {
        const to = from + this.wanted;
        if (this.isEnough(bytes, from, to)) return this.tell(bytes, from, to);
      }
      if (this.kept.add(bytes.subarray(from, end), this.wanted) < end - from) this.tell(bytes, from, from);
      return;
    }
    let at = from;
    while (at < end) {
      const added = this.kept.add(bytes.subarray(at, end), this.wanted);
      at += added;
      if (this.kept.length < this.wanted) {
        if (added === 0) this.tellKept();
        return;
      }
      if (this.isEnough(this.kept.bytes, 0, this.kept.length)) return this.tellKept();
    }
  }

  private finish(): void {
    if (!this.isTold) this.tellKept();
  }

  private tell(bytes: Uint8Array, begin: number, end: number): void {
    this.isTold = true;
    const { chunk } = this;
    if (chunk.bytes !== bytes) chunk.bytes = bytes;
    chunk.begin = begin;
    chunk.end = end;
    this.ear.chunk(chunk);
    this.kept.clear();
  }
}

const endings: Readonly<Record<number, Chunk['ending']>> = { 0x46: 'F', 0x43: 'C', 0x41: 'A' };
const sizeIn = (bytes: Uint8Array, at: number): number => u32At(bytes, at + 4);
