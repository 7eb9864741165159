import { once } from 'node:events';
import type { Response } from 'express';

const heartbeatMs = 15_000;
/** A reader that takes nothing in for so long is cut off; it takes the stream up again where it stopped. */
const stalledAfterMs = 20_000;

/** All streams that are open here: whoever is signed out hears nothing more. */
export class Streams {
  private readonly open = new Set<EventStream>();

  /** @param isWanted asked now and then, and when sessions have ended: a sign-in that ended ends its streams */
  begin(response: Response, isWanted: () => Promise<boolean>): EventStream {
    const stream = EventStream.open(response, isWanted);
    this.open.add(stream);
    stream.whenEnded(() => this.open.delete(stream));
    return stream;
  }

  lookAgain(): void {
    for (const stream of this.open) stream.look();
  }
}

/** Server-sent events to one reader (WHATWG HTML §9.2). */
export class EventStream {
  private readonly enders: (() => void)[] = [];
  private readonly ended: Promise<void>;

  private constructor(
    private readonly response: Response,
    private readonly isWanted: () => Promise<boolean>,
  ) {
    this.ended = new Promise((resolve) => response.once('close', resolve));
  }

  /** Begins a stream that is kept open by a comment now and then. */
  static open(response: Response, isWanted: () => Promise<boolean>): EventStream {
    response.writeHead(200, {
      'content-type': 'text/event-stream',
      'cache-control': 'no-store',
      'x-accel-buffering': 'no',
    });
    response.flushHeaders();
    const stream = new EventStream(response, isWanted);
    const timer = setInterval(() => {
      if (!stream.isFull) stream.write(': still here\n\n');
      stream.look();
    }, heartbeatMs);
    stream.whenEnded(() => clearInterval(timer));
    response.once('close', () => {
      for (const ended of stream.enders) ended();
    });
    return stream;
  }

  get isOpen(): boolean {
    return !this.response.closed && !this.response.destroyed && !this.response.writableEnded;
  }

  /** Ends where nobody may read it any more. */
  look(): void {
    void this.isWanted().then(
      (wanted) => (wanted ? undefined : this.end()),
      // While the database is away nobody is sent away.
      () => undefined,
    );
  }

  /** Called once, when the reader has gone; at once where it has gone already. */
  whenEnded(ended: () => void): void {
    if (this.isOpen) this.enders.push(ended);
    else ended();
  }

  write(part: string | Buffer): void {
    if (!this.isOpen) return;
    this.response.write(part);
  }

  get isFull(): boolean {
    return this.isOpen && this.response.writableNeedDrain;
  }

  /** Waits until the reader has taken in what was written; one that does not is cut off. */
  async drained(): Promise<void> {
    if (!this.isFull) return;
    const limit = AbortSignal.timeout(stalledAfterMs);
    await Promise.race([once(this.response, 'drain', { signal: limit }), this.ended]).catch(() =>
      this.response.destroy(),
    );
  }

  end(): void {
    this.response.end();
  }
}
