import type { Duplex } from 'node:stream';
import type * as z from 'zod';
import { aliveMs, longestLine } from '@loyal-hinge/contract/line';

/** Bytes that wait to be sent before whoever doesn’t read is cut off. */
const mostWaiting = 64 * 1024 * 1024;
const lineEnd = 0x0a;

export interface TalkEars<Heard> {
  heard(message: Heard): void;
  /** Once, however it ends. @param says why, for people; null: the other side ended it */
  gone(says: string | null): void;
}

/**
 * Messages over a connection, one JSON object a line, both ways. What is no message of the other side’s, is too long, or doesn’t
 * come at all ends the connection.
 */
export class Talk<Heard extends { readonly kind: string }, Said extends { readonly kind: string }> {
  private parts: Buffer[] = [];
  private length = 0;
  private isOver = false;
  private lastHeard = Date.now();
  private readonly beat: NodeJS.Timeout;

  constructor(
    private readonly socket: Duplex,
    private readonly schema: z.ZodType<Heard>,
    private readonly ears: TalkEars<Heard>,
    /** What is sent as a sign of life. */
    private readonly alive: Said,
  ) {
    socket.on('data', (bytes: Buffer) => this.take(bytes));
    socket.on('error', () => this.end('The connection broke.'));
    socket.on('close', () => this.end(null));
    socket.on('end', () => this.end(null));
    this.beat = setInterval(() => this.look(), aliveMs);
    this.beat.unref();
  }

  /** @returns false where it can’t be said: the talk is over, or the message longer than the other side would hear */
  say(message: Said): boolean {
    if (this.isOver) return false;
    if (this.socket.writableLength > mostWaiting) {
      this.end('The other side does not read.');
      return false;
    }
    const line = Buffer.from(`${JSON.stringify(message)}\n`);
    if (line.length > longestLine) return false;
    this.socket.write(line);
    return true;
  }

  /** Says a last thing, and ends. */
  close(message?: Said): void {
    if (message) this.say(message);
    if (this.isOver) return;
    this.over(null);
    this.socket.end();
    setTimeout(() => this.socket.destroy(), 2_000).unref();
  }

  private look(): void {
    if (Date.now() - this.lastHeard > 3 * aliveMs) this.end('The other side is silent.');
    else this.say(this.alive);
  }

  private take(bytes: Buffer): void {
    this.lastHeard = Date.now();
    let rest = bytes;
    for (let at = rest.indexOf(lineEnd); at >= 0 && !this.isOver; at = rest.indexOf(lineEnd)) {
      const line = Buffer.concat([...this.parts, rest.subarray(0, at)]);
      this.parts = [];
      this.length = 0;
      rest = rest.subarray(at + 1);
      if (line.length > longestLine) return this.end('A message is too long.');
      this.hear(line);
    }
    if (rest.length === 0 || this.isOver) return;
    this.parts.push(rest);
    this.length += rest.length;
    if (this.length > longestLine) this.end('A message is too long.');
  }

  private hear(line: Buffer): void {
    let value: unknown;
    try {
      value = JSON.parse(line.toString('utf8'));
    } catch {
      return this.end('What came is no message.');
    }
    const read = this.schema.safeParse(value);
    if (!read.success) return this.end('What came is no message that is known here.');
    if (read.data.kind !== this.alive.kind) this.ears.heard(read.data);
  }

  private end(says: string | null): void {
    if (this.isOver) return;
    this.over(says);
    this.socket.destroy();
  }

  private over(says: string | null): void {
    this.isOver = true;
    clearInterval(this.beat);
    this.parts = [];
    this.ears.gone(says);
  }
}
