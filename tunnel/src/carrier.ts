import { Duplex } from 'node:stream';
import type { TLSSocket } from 'node:tls';
import { frame, frameHead, FrameReader, mostData, refusalBytes } from './frames.js';
import type { FrameKind, StreamRefusal } from './frames.js';

/** So many bytes of a stream may be on their way at first, before the far end says that it has room for more. */
export const firstWindow = 1 << 20;
/** A stream whose data are fetched quickly gets more room, and up to so much: else it would wait for the word that there is some. */
export const mostWindow = 8 << 20;
/** Of all streams of one connection together, beyond the room that they have at first. */
const mostGrown = 64 << 20;
/** Quickly: a quarter of the room within so long. */
const quickMs = 20;
/** So many bytes wait at the connection itself; the rest waits in its streams, which take turns. */
const mostWaiting = 1 << 18;
/** Answers that nobody fetches are no reason to hold ever more of them. */
const mostUnsent = 64 << 20;

export interface CarrierEars {
  /** The far end is there. */
  ready?(): void;
  /** The far end opens no more streams, and lets those that are there end. */
  letGo(): void;
  /** The far end wants a stream to a target: open or refuse it. */
  asked?(stream: CarriedStream, target: string): void;
  gone(): void;
}

/**
 * Carries streams over one connection. It always reads, whatever is still to be written: two ends that both wait until what they
 * write is fetched would wait for ever.
 */
export class Carrier {
  private readonly streams = new Map<number, CarriedStream>();
  /** Streams that have something to send and may, in turn. */
  private readonly waiting = new Set<CarriedStream>();
  private lastNumber = 0;
  private unsent = 0;
  /** Room that streams have beyond what they had at first. */
  private grown = 0;
  private isEnding = false;
  private isGone = false;
  private onPong: (() => void) | null = null;

  constructor(
    private readonly socket: TLSSocket,
    private readonly ears: CarrierEars,
  ) {
    const reader = new FrameReader({
      data: (number, part) => this.streams.get(number)?.receive(part),
      other: (kind, number, payload) => this.take(kind, number, payload),
    });
    socket.on('data', (bytes: Buffer) => {
      if (this.isGone) return;
      try {
        reader.take(bytes);
      } catch {
        this.destroy();
      }
    });
    socket.on('error', () => undefined);
    socket.once('end', () => this.destroy());
    socket.once('close', () => this.goneNow());
    if (socket.destroyed) setImmediate(() => this.goneNow());
  }

  get isOpen(): boolean {
    return !this.isGone && !this.isEnding;
  }

  /** Says that the other one is let in. */
  greet(): void {
    this.send(frame('hello', 0));
  }

  /** Asks for a stream to a target of the far end. */
  open(target: string): CarriedStream {
    this.lastNumber += 1;
    const stream = this.added(this.lastNumber);
    this.send(frame('open', stream.number, Buffer.from(target, 'ascii')));
    return stream;
  }

  /** Asks for a sign of life. */
  ping(done: () => void): void {
    this.onPong = done;
    this.send(frame('ping', 0));
  }

  /** Opens no more streams, lets those that are there end, and then the connection. */
  drain(): void {
    if (this.isEnding) return;
    this.isEnding = true;
    this.send(frame('last', 0));
    this.endWhenEmpty();
  }

  destroy(): void {
    this.socket.destroy();
    this.goneNow();
  }

  /** A stream has something to send. */
  wants(stream: CarriedStream): void {
    this.waiting.add(stream);
    this.pump();
  }

  tell(kind: FrameKind, stream: CarriedStream, payload?: Buffer): void {
    this.send(frame(kind, stream.number, payload));
  }

  /** Room for a stream beyond what it has. @returns false: there is none for so much */
  grow(bytes: number): boolean {
    if (this.grown + bytes > mostGrown) return false;
    this.grown += bytes;
    return true;
  }

  forget(stream: CarriedStream): void {
    if (this.streams.get(stream.number) === stream) this.grown -= stream.room - firstWindow;
    this.waiting.delete(stream);
    this.streams.delete(stream.number);
    if (this.isEnding) this.endWhenEmpty();
  }

  private added(number: number): CarriedStream {
    const stream = new CarriedStream(this, number);
    this.streams.set(number, stream);
    return stream;
  }

  /** One part of each stream that has one, as long as the connection takes them. */
  private pump(): void {
    if (this.isGone || this.waiting.size === 0 || this.unsent >= mostWaiting) return;
    this.socket.cork();
    for (const stream of this.waiting) {
      if (this.unsent >= mostWaiting) break;
      this.waiting.delete(stream);
      const part = stream.next();
      if (!part) continue;
      this.socket.write(frameHead('data', stream.number, part.length));
      this.unsent += part.length;
      this.socket.write(part, () => {
        this.unsent -= part.length;
        stream.sent();
        this.pump();
      });
      if (stream.hasMore) this.waiting.add(stream);
    }
    this.socket.uncork();
  }

  private send(bytes: Buffer): void {
    if (this.isGone) return;
    this.socket.write(bytes);
    if (this.socket.writableLength > mostUnsent) this.destroy();
  }

  private take(kind: Exclude<FrameKind, 'data'>, number: number, payload: Buffer): void {
    switch (kind) {
      case 'hello':
        return this.ears.ready?.();
      case 'open':
        return this.asked(number, payload.toString('ascii'));
      case 'ping':
        return this.send(frame('pong', 0));
      case 'pong':
        return this.onPong?.();
      case 'last':
        this.isEnding = true;
        this.ears.letGo();
        return this.endWhenEmpty();
      default:
        this.streams.get(number)?.told(kind, payload);
    }
  }

  private asked(number: number, target: string): void {
    const { asked } = this.ears;
    if (!asked || number <= this.lastNumber) throw new Error('a stream that may not be opened');
    this.lastNumber = number;
    const stream = this.added(number);
    if (this.isEnding) stream.refuse('target does not answer');
    else asked.call(this.ears, stream, target);
  }

  private endWhenEmpty(): void {
    if (this.streams.size === 0 && !this.isGone) this.socket.end();
  }

  private goneNow(): void {
    if (this.isGone) return;
    this.isGone = true;
    for (const stream of this.streams.values()) stream.cut();
    this.streams.clear();
    this.waiting.clear();
    this.ears.gone();
  }
}

/** One stream of a carrier; `opened` and `refused` tell what became of one that was asked for. */
export class CarriedStream extends Duplex {
  private queue: Buffer[] = [];
  private queued = 0;
  private onSent: (() => void) | null = null;
  private credit = firstWindow;
  private window = firstWindow;
  /** Taken, and not yet given back to the far end as credit. */
  private owed = 0;
  private creditedAt = performance.now();
  private held = 0;
  private isOver = false;
  private isEndSent = false;
  private isEndHeard = false;

  constructor(
    private readonly carrier: Carrier,
    readonly number: number,
  ) {
    super({ allowHalfOpen: true, writableHighWaterMark: mostWaiting, readableHighWaterMark: mostWaiting });
  }

  /** To whoever asked: the target is there. */
  accept(): void {
    this.carrier.tell('opened', this);
  }

  /** To whoever asked: it is not opened. */
  refuse(why: StreamRefusal): void {
    this.carrier.tell('refused', this, Buffer.from([refusalBytes[why]]));
    this.isOver = true;
    this.destroy();
  }

  /** Ends it at once, at both ends. */
  cancel(): void {
    if (!this.destroyed) this.destroy(new Error('the stream was cancelled'));
  }

  /** The connection is gone. */
  cut(): void {
    this.isOver = true;
    if (!this.destroyed) this.destroy(new Error('the line is gone'));
  }

  /** So many bytes may wait here until they are fetched. */
  get room(): number {
    return this.window;
  }

  get hasMore(): boolean {
    return this.queued > 0 && this.credit > 0;
  }

  /** The next part that may go; null: there is none. */
  next(): Buffer | null {
    const [first] = this.queue;
    if (!first || this.credit <= 0) return null;
    const part = first.subarray(0, Math.min(first.length, mostData, this.credit));
    if (part.length === first.length) this.queue.shift();
    else this.queue[0] = first.subarray(part.length);
    this.queued -= part.length;
    this.credit -= part.length;
    return part;
  }

  /** What was handed over last has gone. */
  sent(): void {
    if (this.queued > 0) return;
    const done = this.onSent;
    this.onSent = null;
    done?.();
  }

  receive(part: Buffer): void {
    this.held += part.length;
    if (this.held > this.window || this.isEndHeard) throw new Error('more data than there is room for');
    this.owed += part.length;
    if (!this.destroyed && this.push(part)) this.giveCredit();
  }

  told(kind: Exclude<FrameKind, 'data'>, payload: Buffer): void {
    switch (kind) {
      case 'credit':
        if (payload.length !== 4) throw new Error('credit of no size');
        this.credit += payload.readUInt32BE(0);
        if (this.credit > mostWindow) throw new Error('more credit than there can be room for');
        if (this.hasMore) this.carrier.wants(this);
        return;
      case 'opened':
        this.emit('opened');
        return;
      case 'refused':
        this.isOver = true;
        this.emit('refused', payload[0] ?? 0);
        this.destroy();
        return;
      case 'end':
        this.isEndHeard = true;
        this.push(null);
        return;
      case 'reset':
        this.isOver = true;
        this.destroy();
        return;
      default:
        throw new Error('a frame that is of no stream');
    }
  }

  override _read(): void {
    this.giveCredit();
  }

  override _write(part: Buffer, _: BufferEncoding, done: () => void): void {
    this.hand([part], done);
  }
  override _writev(parts: readonly { readonly chunk: Buffer }[], done: () => void): void {
    this.hand(
      parts.map(({ chunk }) => chunk),
      done,
    );
  }

  override _final(done: () => void): void {
    this.carrier.tell('end', this);
    this.isEndSent = true;
    done();
  }

  override _destroy(error: Error | null, done: (error: Error | null) => void): void {
    const isEnded = this.isEndSent && this.isEndHeard;
    if (!this.isOver && !isEnded) this.carrier.tell('reset', this);
    this.carrier.forget(this);
    this.queue = [];
    this.queued = 0;
    done(error);
  }

  private hand(parts: readonly Buffer[], done: () => void): void {
    for (const part of parts) {
      this.queue.push(part);
      this.queued += part.length;
    }
    this.onSent = done;
    if (this.queued === 0) return this.sent();
    this.carrier.wants(this);
  }

  /** Room that was used and is free again, a quarter of it at a time; twice the room where nothing waits here and that goes quickly. */
  private giveCredit(): void {
    if (this.owed < this.window / 4 || this.isEndHeard || this.destroyed) return;
    const now = performance.now();
    const isQuick = this.readableLength === 0 && now - this.creditedAt < quickMs;
    const more = isQuick && this.window < mostWindow && this.carrier.grow(this.window) ? this.window : 0;
    const credit = Buffer.alloc(4);
    credit.writeUInt32BE(this.owed + more);
    this.window += more;
    this.held -= this.owed;
    this.owed = 0;
    this.creditedAt = now;
    this.carrier.tell('credit', this, credit);
  }
}
