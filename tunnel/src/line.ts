import { connect } from 'node:net';
import type { Socket } from 'node:net';
import { pipeline } from 'node:stream';
import type { Transform } from 'node:stream';
import type { TLSSocket } from 'node:tls';
import { Carrier } from './carrier.js';
import type { CarriedStream } from './carrier.js';
import { refusalBytes } from './frames.js';
import type { StreamRefusal } from './frames.js';
import { paced, Pace } from './pace.js';
import type { Counts } from './statistics.js';
import type { Held } from './held.js';

/**
 * A stream is asked for by the name of a target of the far end, and no address. Of the two connections that join two ends, each
 * carries the streams that one of them opens.
 */
/** How connections of streams are opened at both ends; so much of them may wait that one call writes many parts. */
export const ofStreams = { allowHalfOpen: true, noDelay: true, highWaterMark: 1 << 18 } as const;

export interface LineEars {
  /** The far end lets its streams end, and opens no more. */
  readonly letGo: () => void;
  readonly gone: () => void;
}

/** The side that opens streams. */
export class AskingLine {
  private readonly carrier: Carrier;
  private readonly life: Life;

  constructor(
    socket: TLSSocket,
    private readonly held: Held,
    private readonly counts: Counts,
    ears: LineEars & { readonly ready: () => void },
  ) {
    /* Who is refused hears nothing: only what the far end says of itself shows that it has let us in. */
    this.carrier = new Carrier(socket, { ...ears, gone: () => this.life.over(ears.gone) });
    this.life = new Life(this.carrier, held.configuration.limits.silenceMs, counts);
  }

  /** Leads a connection to a target of the far end; it is closed where that can’t be. */
  lead(local: Socket, target: string): void {
    const { counts } = this;
    if (!this.carrier.isOpen) return refuse(local, counts, 'no line');
    if (counts.open >= this.held.configuration.limits.streams) return refuse(local, counts, 'too many streams');
    const stream = this.carrier.open(target);
    counts.open += 1;
    counts.total += 1;
    let isJoined = false;
    stream.once('close', () => {
      counts.open -= 1;
      if (!isJoined) local.destroy();
    });
    stream.once('opened', () => {
      isJoined = true;
      join(local, stream, counts, this.held);
    });
    stream.once('refused', (why: number) => counts.refuse(refusalOf(why)));
    stream.on('error', () => local.destroy());
    local.on('error', () => stream.cancel());
    local.once('close', () => {
      if (!stream.writableEnded) stream.cancel();
    });
  }

  /** Lets streams end, and opens no more. */
  drain(): Promise<void> {
    return this.life.drain();
  }
  end(): void {
    this.carrier.destroy();
  }
}

/** The side that connects to targets. */
export class AnsweringLine {
  private readonly carrier: Carrier;
  private readonly life: Life;

  constructor(
    socket: TLSSocket,
    private readonly held: Held,
    private readonly counts: Counts,
    ears: LineEars,
  ) {
    this.carrier = new Carrier(socket, {
      ...ears,
      asked: (stream, target) => this.answer(stream, target),
      gone: () => this.life.over(ears.gone),
    });
    this.life = new Life(this.carrier, held.configuration.limits.silenceMs, counts);
    this.carrier.greet();
  }

  private answer(stream: CarriedStream, wanted: string): void {
    const { counts } = this;
    const { configuration } = this.held;
    stream.on('error', () => undefined);
    const refuseBy = (why: StreamRefusal): void => {
      counts.refuse(why);
      if (!stream.destroyed) stream.refuse(why);
    };
    const target = configuration.targets.find(({ name }) => name === wanted);
    if (!target) return refuseBy('unknown target');
    if (counts.open >= configuration.limits.streams) return refuseBy('too many streams');
    counts.open += 1;
    counts.total += 1;
    stream.once('close', () => (counts.open -= 1));
    const socket = connect({ host: target.address, port: target.port, ...ofStreams });
    const tooLate = setTimeout(() => socket.destroy(new Error('no answer')), configuration.limits.connectMs);
    let isThere = false;
    socket.once('connect', () => {
      clearTimeout(tooLate);
      isThere = true;
      if (stream.destroyed) {
        socket.destroy();
        return;
      }
      stream.accept();
      join(socket, stream, counts, this.held);
    });
    socket.on('error', () => {
      clearTimeout(tooLate);
      if (isThere) stream.cancel();
      else refuseBy('target does not answer');
    });
    stream.once('close', () => {
      clearTimeout(tooLate);
      if (!socket.writableEnded) socket.destroy();
    });
  }

  drain(): Promise<void> {
    return this.life.drain();
  }
  end(): void {
    this.carrier.destroy();
  }
}

/** Both ways until each side has ended; what one side has half closed is half closed at the other. */
function join(socket: Socket, stream: CarriedStream, counts: Counts, { configuration, paces }: Held): void {
  const write = together(socket);
  socket.on('data', (bytes: Buffer) => (counts.sent += bytes.length));
  stream.on('data', (bytes: Buffer) => {
    counts.received += bytes.length;
    write();
  });
  const { idleMs, streamBytesPerSecond } = configuration.limits;
  if (idleMs !== null) endWhenIdle(socket, stream, idleMs);
  const between = (total: Pace | null): Transform[] => {
    const all = [...(streamBytesPerSecond === null ? [] : [new Pace(streamBytesPerSecond)]), ...(total ? [total] : [])];
    return all.length > 0 ? [paced(all)] : [];
  };
  const done = (): void => undefined;
  pipeline([socket, ...between(paces.sent), stream], done);
  pipeline([stream, ...between(paces.received), socket], done);
}

/** Holds back what is written until the end of this turn of the loop: then all of it goes by one call, not one a part. */
function together(socket: Socket): () => void {
  let isHeld = false;
  return () => {
    if (isHeld) return;
    isHeld = true;
    socket.cork();
    setImmediate(() => {
      isHeld = false;
      socket.uncork();
    });
  };
}

/** Ends a stream over which nothing goes, whichever way. */
function endWhenIdle(socket: Socket, stream: CarriedStream, idleMs: number): void {
  let lastAt = Date.now();
  const touch = (): void => void (lastAt = Date.now());
  socket.on('data', touch);
  stream.on('data', touch);
  const timer = setInterval(() => {
    if (Date.now() - lastAt < idleMs) return;
    stream.cancel();
    socket.destroy();
  }, idleMs / 4);
  timer.unref();
  stream.once('close', () => clearInterval(timer));
}

function refuse(local: Socket, counts: Counts, refusal: 'no line' | 'too many streams'): void {
  counts.refuse(refusal);
  local.destroy();
}

const refusalOf = (why: number): StreamRefusal =>
  (Object.keys(refusalBytes) as StreamRefusal[]).find((refusal) => refusalBytes[refusal] === why) ??
  'target does not answer';

/** Asks a carrier for signs of life, and gives it up when there are none: a line that is cut says nothing by itself. */
class Life {
  private readonly beat: NodeJS.Timeout;
  private lastSeen = Date.now();
  private isOver = false;
  private onOver: () => void = () => undefined;

  constructor(
    private readonly carrier: Carrier,
    silenceMs: number,
    counts: Counts,
  ) {
    this.beat = setInterval(() => {
      if (Date.now() - this.lastSeen > silenceMs) return carrier.destroy();
      const begun = performance.now();
      carrier.ping(() => {
        this.lastSeen = Date.now();
        counts.roundTripMs = performance.now() - begun;
      });
    }, silenceMs / 3);
    this.beat.unref();
  }

  over(onGone: () => void): void {
    this.isOver = true;
    clearInterval(this.beat);
    this.onOver();
    onGone();
  }

  drain(): Promise<void> {
    return new Promise((resolve) => {
      if (this.isOver) return resolve();
      this.onOver = resolve;
      this.carrier.drain();
    });
  }
}
