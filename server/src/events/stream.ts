import { once } from 'node:events';
import type { Response } from 'express';

const heartbeatMs = 15_000;
/** A reader that takes nothing in for so long is cut off; it takes the stream up again where it stopped. */
const stalledAfterMs = 20_000;

/** Server-sent events to one reader (WHATWG HTML §9.2). */
export class EventStream {
  private readonly enders: (() => void)[] = [];
  private readonly ended: Promise<void>;

  private constructor(private readonly response: Response) {
    this.ended = new Promise((resolve) => response.once('close', resolve));
  }

  /**
   * Begins a stream that is kept open by a comment now and then.
   * @param isWanted asked with every comment: a sign-in that ended ends its streams
   */
  static open(response: Response, isWanted: () => Promise<boolean>): EventStream {
    response.writeHead(200, {
      'content-type': 'text/event-stream',
      'cache-control': 'no-store',
      'x-accel-buffering': 'no',
    });
    response.flushHeaders();
    const stream = new EventStream(response);
    const timer = setInterval(() => {
      if (!stream.isFull) stream.write(': still here\n\n');
      void isWanted().then(
        (wanted) => (wanted ? undefined : stream.end()),
        // While the database is away nobody is sent away.
        () => undefined,
      );
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
