import type { Conversation } from '../conversation/conversation.js';
import type { Dialect, End } from '../conversation/dialect.js';
import { Budget } from './budget.js';
import { Connection } from './connection.js';
import type { CaptureEnd } from './connection.js';
import type { Segment, Unreachable } from './packet.js';
import type { SegmentEars } from './packets.js';

/** Connections that are followed at once. */
const mostConnections = 32_000;
/** Bytes of messages and of early segments that are held, of all connections together. */
const mostHeld = 48 << 20;
/** A connection that is over is told once nothing has come for so long: what was on its way belongs to it. */
const lingerMicroseconds = 30e6;
const sweepMicroseconds = 5e6;

/** Sorts segments into connections, and tells each when it is over. */
export class Connections implements SegmentEars {
  private readonly byPlace = new Map<number, Connection>();
  private readonly budget = new Budget(mostHeld);
  private count = 0;
  private last: Connection | null = null;
  private lastAt = Number.NEGATIVE_INFINITY;
  private sweptAt = Number.NEGATIVE_INFINITY;
  private sinceSweep = 0;
  /** Connections that were told before their end, because too many were open at once. */
  letGo = 0;

  constructor(
    private readonly dialects: readonly Dialect[],
    private readonly tell: (conversation: Conversation) => void,
  ) {}

  segment(segment: Segment): void {
    this.lastAt = Math.max(this.lastAt, segment.at);
    const sender = this.last ? this.last.senderOf(segment) : null;
    if (this.last && sender !== null && !this.last.isAnother(segment)) {
      this.last.take(segment, sender);
      return;
    }
    this.take(segment);
    this.sweepAtTimes();
  }

  unreachable(answer: Unreachable): void {
    const found = this.find(answer.segment);
    if (found) found.connection.answered(answer);
  }

  /** The capture has ended. */
  end(isCutOff: boolean): void {
    const end = { at: this.lastAt, isCutOff };
    const left = [...this.all()].sort((one, other) => one.lastAt - other.lastAt);
    this.byPlace.clear();
    this.count = 0;
    this.last = null;
    for (const connection of left) this.tell(connection.told(end));
  }

  private take(segment: Segment): void {
    const found = this.find(segment);
    if (found && !found.connection.isAnother(segment)) {
      found.connection.take(segment, found.sender);
      this.last = found.connection;
      return;
    }
    if (found) this.remove(found.connection, stillGoing);
    if (this.count >= mostConnections) this.letOldestGo();
    const connection = new Connection(segment, placeOf(segment), this.dialects, this.budget);
    this.add(connection);
    connection.take(segment, 0);
    this.last = connection;
  }

  private find(segment: Segment): { readonly connection: Connection; readonly sender: End } | null {
    for (let at = this.byPlace.get(placeOf(segment)) ?? null; at; at = at.neighbour) {
      const sender = at.senderOf(segment);
      if (sender !== null) return { connection: at, sender };
    }
    return null;
  }

  private add(connection: Connection): void {
    connection.neighbour = this.byPlace.get(connection.place) ?? null;
    this.byPlace.set(connection.place, connection);
    this.count += 1;
  }

  private remove(connection: Connection, end: CaptureEnd): void {
    const { place } = connection;
    const first = this.byPlace.get(place) ?? null;
    if (first === connection) {
      if (connection.neighbour) this.byPlace.set(place, connection.neighbour);
      else this.byPlace.delete(place);
    } else
      for (let at = first; at; at = at.neighbour)
        if (at.neighbour === connection) {
          at.neighbour = connection.neighbour;
          break;
        }
    connection.neighbour = null;
    this.count -= 1;
    if (this.last === connection) this.last = null;
    this.tell(connection.told(end));
  }

  private *all(): Iterable<Connection> {
    for (const first of this.byPlace.values()) for (let at: Connection | null = first; at; at = at.neighbour) yield at;
  }

  /** What is over and quiet is told, every few seconds of the capture, and never more often than there are connections. */
  private sweepAtTimes(): void {
    this.sinceSweep += 1;
    if (this.lastAt - this.sweptAt < sweepMicroseconds || this.sinceSweep < this.count) return;
    this.sweptAt = this.lastAt;
    this.sinceSweep = 0;
    const over = [...this.all()].filter(
      (connection) => connection.isOver && this.lastAt - connection.lastAt > lingerMicroseconds,
    );
    over.sort((one, other) => one.lastAt - other.lastAt);
    for (const connection of over) this.remove(connection, stillGoing);
  }

  private letOldestGo(): void {
    const times = Float64Array.from(this.all(), ({ lastAt }) => lastAt).sort();
    const latest = times[mostConnections / 4] ?? 0;
    for (const connection of [...this.all()]) {
      if (connection.lastAt > latest) continue;
      if (!connection.isOver) this.letGo += 1;
      this.remove(connection, stillGoing);
    }
  }
}

const stillGoing: CaptureEnd = { at: null, isCutOff: false };

/** The same number for both ways of a connection. */
function placeOf({ view, addressBytes, sourceAt, destinationAt, sourcePort, destinationPort }: Segment): number {
  let sum = 0;
  for (let at = 0; at < addressBytes; at += 4)
    sum ^= mixed(view.getInt32(sourceAt + at) + at) ^ mixed(view.getInt32(destinationAt + at) + at);
  return (mixed(sum ^ (mixed(sourcePort + 7) + mixed(destinationPort + 7))) & 0x3fffffff) >>> 0;
}

function mixed(value: number): number {
  let word = Math.imul(value ^ (value >>> 16), 0x45d9f3b);
  word = Math.imul(word ^ (word >>> 13), 0x45d9f3b);
  return word ^ (word >>> 16);
}
