import { microsecondsNow } from './night-clock.js';
import { tcpFlag } from './packet-file.js';
import type { WrittenSegment } from './packet-file.js';

export interface RecordedEnd {
  readonly address: string;
  readonly port: number;
}
type Who = 'client' | 'server';

const { syn, fin, reset, push, acknowledge } = tcpFlag;
const mostPayload = 1400;
const none = new Uint8Array();

/** Writes down what two ends of a connection really sent, as packets that a tap between them would have seen. */
export class RecordedConnection {
  private readonly next: Record<Who, number>;
  private readonly closed = new Set<Who>();
  private isOver = false;

  constructor(
    private readonly client: RecordedEnd,
    private readonly server: RecordedEnd,
    private readonly write: (segment: WrittenSegment) => void,
    private readonly begunAt = microsecondsNow(),
  ) {
    const seed = Math.imul(client.port * 65_537 + server.port, 2_654_435_761) >>> 0;
    this.next = { client: seed, server: (seed ^ 0x5bd1e995) >>> 0 };
  }

  /** Nothing answered: it was asked again and again, so many seconds after the first time. */
  unanswered(afterSeconds: readonly number[] = [0, 1, 3]): void {
    for (const seconds of afterSeconds) this.put('client', syn, none, this.begunAt + seconds * 1e6);
    this.isOver = true;
  }

  refused(): void {
    this.put('client', syn, none, this.begunAt);
    this.next.client += 1;
    this.put('server', reset | acknowledge);
    this.isOver = true;
  }

  taken(): void {
    this.put('client', syn, none, this.begunAt);
    this.next.client += 1;
    this.put('server', syn | acknowledge);
    this.next.server += 1;
    this.put('client', acknowledge);
  }

  sent(by: Who, bytes: Uint8Array): void {
    if (this.isOver) return;
    for (let at = 0; at < bytes.length; at += mostPayload) {
      /* A copy: whoever reads it may decrypt it in place. */
      const part = Uint8Array.from(bytes.subarray(at, at + mostPayload));
      this.put(by, push | acknowledge, part);
      this.next[by] += part.length;
    }
  }

  end(by: Who): void {
    if (this.isOver || this.closed.has(by)) return;
    this.closed.add(by);
    this.put(by, fin | acknowledge);
    this.next[by] += 1;
    if (this.closed.size === 2) this.put(by === 'client' ? 'server' : 'client', acknowledge);
  }

  broken(by: Who): void {
    if (this.isOver || this.closed.size === 2) return;
    this.isOver = true;
    this.put(by, reset | acknowledge);
  }

  private put(by: Who, flags: number, payload = none, at = microsecondsNow()): void {
    const [from, to] = by === 'client' ? [this.client, this.server] : [this.server, this.client];
    const acknowledged = (flags & acknowledge) === 0 ? 0 : this.next[by === 'client' ? 'server' : 'client'];
    this.write({ at, from, to, sequence: this.next[by], acknowledged, flags, payload });
  }
}
