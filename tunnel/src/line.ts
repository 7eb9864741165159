import { connect as connectSession, constants, performServerHandshake } from 'node:http2';
import type { ClientHttp2Session, Http2Session, Http2Stream, ServerHttp2Stream } from 'node:http2';
import { connect } from 'node:net';
import type { Socket } from 'node:net';
import { pipeline } from 'node:stream';
import type { Transform } from 'node:stream';
import type { TLSSocket } from 'node:tls';
import { paced, Pace } from './pace.js';
import type { Counts } from './statistics.js';
import type { Held } from './held.js';

/**
 * Streams go by CONNECT of HTTP/2 (RFC 9113 §8.5): the authority names a target of the far end, and no address. Of the two
 * connections that join two ends, each carries the streams that one of them opens.
 */
const window = 1 << 20;
const sessionWindow = 16 << 20;
const { HTTP2_HEADER_AUTHORITY, HTTP2_HEADER_METHOD, HTTP2_HEADER_STATUS } = constants;

/** The side that opens streams. */
export class AskingLine {
  private readonly session: ClientHttp2Session;
  private readonly life: Life;

  constructor(
    socket: TLSSocket,
    private readonly held: Held,
    private readonly counts: Counts,
    onReady: () => void,
    onGone: () => void,
  ) {
    this.session = connectSession('https://tunnel', {
      createConnection: () => socket,
      settings: { initialWindowSize: window },
    });
    this.session.once('connect', () => this.session.setLocalWindowSize(sessionWindow));
    /* Who is refused hears nothing: only what the far end says of itself shows that it has let us in. */
    this.session.once('remoteSettings', onReady);
    this.life = new Life(this.session, held.configuration.limits.silenceMs, counts, onGone);
  }

  /** Leads a connection to a target of the far end; it is closed where that can’t be. */
  lead(local: Socket, target: string): void {
    const { counts } = this;
    if (this.session.closed || this.session.destroyed) return refuse(local, counts, 'no line');
    if (counts.open >= this.held.configuration.limits.streams) return refuse(local, counts, 'too many streams');
    const stream = this.session.request(
      { [HTTP2_HEADER_METHOD]: 'CONNECT', [HTTP2_HEADER_AUTHORITY]: target },
      { endStream: false },
    );
    endWhenAborted(stream);
    counts.open += 1;
    counts.total += 1;
    let isJoined = false;
    stream.once('close', () => {
      counts.open -= 1;
      if (!isJoined) local.destroy();
    });
    stream.once('response', (headers) => {
      if (Number(headers[HTTP2_HEADER_STATUS]) === 200) {
        isJoined = true;
        return join(local, stream, counts, this.held);
      }
      counts.refuse(refusalOf(Number(headers[HTTP2_HEADER_STATUS])));
      cancel(stream);
      local.destroy();
    });
    stream.on('error', () => local.destroy());
    local.on('error', () => cancel(stream));
    local.once('close', () => {
      if (!stream.writableEnded) cancel(stream);
    });
  }

  /** Lets streams end, and opens no more. */
  drain(): Promise<void> {
    return this.life.drain();
  }
  end(): void {
    this.life.end();
  }
}

/** The side that connects to targets. */
export class AnsweringLine {
  private readonly life: Life;

  constructor(
    socket: TLSSocket,
    private readonly held: Held,
    private readonly counts: Counts,
    onGone: () => void,
  ) {
    const session = performServerHandshake(socket, {
      settings: { initialWindowSize: window, maxConcurrentStreams: held.configuration.limits.streams },
    });
    session.setLocalWindowSize(sessionWindow);
    session.on('stream', (stream, headers) =>
      this.answer(stream, String(headers[HTTP2_HEADER_METHOD]), String(headers[HTTP2_HEADER_AUTHORITY])),
    );
    this.life = new Life(session, held.configuration.limits.silenceMs, counts, onGone);
  }

  private answer(stream: ServerHttp2Stream, method: string, authority: string): void {
    const { counts } = this;
    const { configuration } = this.held;
    stream.on('error', () => undefined);
    const refuseBy = (status: number): void => {
      counts.refuse(refusalOf(status));
      if (stream.destroyed) return;
      stream.respond({ [HTTP2_HEADER_STATUS]: status }, { endStream: true });
    };
    const target = method === 'CONNECT' ? configuration.targets.find(({ name }) => name === authority) : undefined;
    if (!target) return refuseBy(404);
    if (counts.open >= configuration.limits.streams) return refuseBy(503);
    endWhenAborted(stream);
    counts.open += 1;
    counts.total += 1;
    stream.once('close', () => (counts.open -= 1));
    const socket = connect({ host: target.address, port: target.port, allowHalfOpen: true, noDelay: true });
    const tooLate = setTimeout(() => socket.destroy(new Error('no answer')), configuration.limits.connectMs);
    let isThere = false;
    socket.once('connect', () => {
      clearTimeout(tooLate);
      isThere = true;
      if (stream.destroyed) {
        socket.destroy();
        return;
      }
      stream.respond({ [HTTP2_HEADER_STATUS]: 200 });
      join(socket, stream, counts, this.held);
    });
    socket.on('error', () => {
      clearTimeout(tooLate);
      if (isThere) cancel(stream);
      else refuseBy(502);
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
    this.life.end();
  }
}

/** Both ways until each side has ended; what one side has half closed is half closed at the other. */
function join(socket: Socket, stream: Http2Stream, counts: Counts, { configuration, paces }: Held): void {
  socket.on('data', (bytes: Buffer) => (counts.sent += bytes.length));
  stream.on('data', (bytes: Buffer) => (counts.received += bytes.length));
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

/** Ends a stream at once, and tells the far end (RST_STREAM): closing would wait for what is still to be written. */
function cancel(stream: Http2Stream): void {
  if (!stream.destroyed) stream.destroy(new Error('the stream was cancelled'));
}

/** A stream that the far end has cancelled is over, whatever of it is not read yet. */
function endWhenAborted(stream: Http2Stream): void {
  stream.once('aborted', () => stream.destroy());
}

/** Ends a stream over which nothing goes, whichever way. */
function endWhenIdle(socket: Socket, stream: Http2Stream, idleMs: number): void {
  let lastAt = Date.now();
  const touch = (): void => void (lastAt = Date.now());
  socket.on('data', touch);
  stream.on('data', touch);
  const timer = setInterval(() => {
    if (Date.now() - lastAt < idleMs) return;
    cancel(stream);
    socket.destroy();
  }, idleMs / 4);
  timer.unref();
  stream.once('close', () => clearInterval(timer));
}

function refuse(local: Socket, counts: Counts, refusal: 'no line' | 'too many streams'): void {
  counts.refuse(refusal);
  local.destroy();
}

const refusalOf = (status: number) =>
  status === 404
    ? ('unknown target' as const)
    : status === 503
      ? ('too many streams' as const)
      : ('target does not answer' as const);

/** Asks a session for signs of life, and gives it up when there are none: a line that is cut says nothing by itself. */
class Life {
  private readonly beat: NodeJS.Timeout;
  private lastSeen = Date.now();

  constructor(
    private readonly session: Http2Session,
    silenceMs: number,
    counts: Counts,
    onGone: () => void,
  ) {
    session.on('error', () => undefined);
    session.once('close', () => {
      clearInterval(this.beat);
      onGone();
    });
    this.beat = setInterval(() => {
      if (Date.now() - this.lastSeen > silenceMs) return session.destroy(new Error('the line is silent'));
      if (session.closed || session.destroyed) return;
      session.ping((error, ms) => {
        if (error) return;
        this.lastSeen = Date.now();
        counts.roundTripMs = ms;
      });
    }, silenceMs / 3);
    this.beat.unref();
  }

  drain(): Promise<void> {
    return new Promise((resolve) => {
      if (this.session.destroyed) return resolve();
      this.session.once('close', () => resolve());
      this.session.close();
    });
  }

  end(): void {
    if (!this.session.destroyed) this.session.destroy();
  }
}
