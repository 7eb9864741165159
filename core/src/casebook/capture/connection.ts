import type { Conversation, ConversationOutcome, Place, Protocol } from '../conversation/conversation.js';
import { headBytes } from '../conversation/dialect.js';
import type { Dialect, End, Listener } from '../conversation/dialect.js';
import { addressText } from '../../trust/x509/general-name.js';
import type { Budget } from './budget.js';
import { tcpFlags } from './packet.js';
import type { Segment, Unreachable } from './packet.js';
import { SentBytes } from './sent-bytes.js';
import type { StreamEar } from './sent-bytes.js';
import { unreachableWords } from './unreachable-words.js';

/** What is known about the end of a whole capture. */
export interface CaptureEnd {
  /** Of its last packet, in microseconds; null: the connection is told of before the capture has ended. */
  readonly at: number | null;
  /** Whether the file ends within a packet. */
  readonly isCutOff: boolean;
}

/** What is quiet for so long before the capture ends was not cut off by its end. */
const inUseMicroseconds = 10e6;
/** Segments without a beginning whose first bytes are looked at, until one begins like a protocol. */
const mostLooks = 16;
/** Ports at which servers listen; the other end asks, where nothing better is known. */
const isServerPort = (port: number): boolean => port < 1024 || port === 4840 || port === 4843;

/** What one end has done. */
class Side implements StreamEar {
  readonly sent: SentBytes;
  packets = 0;
  hasFin = false;
  /** The first bytes, until it is known by which protocol they are. */
  head: Uint8Array | null = null;
  looks = 0;
  isForeign = false;

  constructor(
    private readonly connection: Connection,
    private readonly end: End,
    budget: Budget,
  ) {
    this.sent = new SentBytes(budget);
  }

  hear(bytes: Uint8Array, begin: number, end: number): void {
    this.connection.heard(this.end, bytes, begin, end);
  }
  miss(count: number): void {
    this.connection.missed(this.end, count);
  }
}

const lastBytesOf = ({ view, addressBytes }: Segment, at: number): number => view.getUint32(at + addressBytes - 4);

/** One TCP connection: its packets, its outcome, and who listens to it. */
export class Connection {
  readonly addressBytes: number;
  private readonly addresses: readonly [Uint8Array, Uint8Array];
  /** Of each address its last four bytes, by which most can be told apart at once. */
  private readonly ends: readonly [number, number];
  private readonly ports: readonly [number, number];
  private readonly sides: readonly [Side, Side];
  private readonly begunAt: number;
  private readonly position: number;
  lastAt: number;
  private synBy: End | null = null;
  private synSequence = 0;
  private synAcknowledgedBy: End | null = null;
  private finFirst: End | null = null;
  private resetBy: End | null = null;
  private unreachable: string | null = null;
  private firstToSpeak: End | null = null;
  private lastToSpeak: End | null = null;
  private protocol: Protocol = 'tcp';
  private listener: Listener | null = null;
  /** Another one with the same place in the table. */
  neighbour: Connection | null = null;

  constructor(
    segment: Segment,
    /** In the table of all connections. */
    readonly place: number,
    private readonly dialects: readonly Dialect[],
    private readonly budget: Budget,
  ) {
    this.addressBytes = segment.addressBytes;
    const address = (from: number): Uint8Array => segment.bytes.slice(from, from + segment.addressBytes);
    this.addresses = [address(segment.sourceAt), address(segment.destinationAt)];
    this.ends = [lastBytesOf(segment, segment.sourceAt), lastBytesOf(segment, segment.destinationAt)];
    this.ports = [segment.sourcePort, segment.destinationPort];
    this.sides = [new Side(this, 0, budget), new Side(this, 1, budget)];
    this.begunAt = segment.at;
    this.lastAt = segment.at;
    this.position = segment.position;
  }

  /** Which end has sent a segment; null: it belongs to another connection. */
  senderOf(segment: Segment): End | null {
    if (segment.addressBytes !== this.addressBytes) return null;
    const [first, second] = this.ports;
    if (segment.sourcePort === first && segment.destinationPort === second && this.isBetween(segment, 0)) return 0;
    if (segment.sourcePort === second && segment.destinationPort === first && this.isBetween(segment, 1)) return 1;
    return null;
  }

  private isBetween(segment: Segment, sender: End): boolean {
    const { bytes, sourceAt, destinationAt } = segment;
    if (lastBytesOf(segment, sourceAt) !== this.ends[sender]) return false;
    if (lastBytesOf(segment, destinationAt) !== this.ends[sender === 0 ? 1 : 0]) return false;
    if (this.addressBytes === 4) return true;
    const source = this.addresses[sender];
    const destination = this.addresses[sender === 0 ? 1 : 0];
    for (let index = 0; index < this.addressBytes; index += 1)
      if (bytes[sourceAt + index] !== source[index] || bytes[destinationAt + index] !== destination[index])
        return false;
    return true;
  }

  /** Whether a segment asks for a new connection between the same ports. */
  isAnother(segment: Segment): boolean {
    if ((segment.flags & (tcpFlags.syn | tcpFlags.acknowledge)) !== tcpFlags.syn) return false;
    if (this.synBy === null) {
      /* An answer that was recorded before what it answers. */
      const isLate = this.synAcknowledgedBy !== null && this.sides[0].packets + this.sides[1].packets === 1;
      return !isLate;
    }
    return segment.sequence !== this.synSequence;
  }

  /** Both ends have closed it, or one has broken it off. */
  get isOver(): boolean {
    return this.resetBy !== null || (this.sides[0].hasFin && this.sides[1].hasFin) || this.unreachable !== null;
  }

  take(segment: Segment, sender: End): void {
    const side = this.sides[sender];
    const other = this.sides[sender === 0 ? 1 : 0];
    const { flags, at } = segment;
    side.packets += 1;
    this.lastAt = Math.max(this.lastAt, at);
    if ((flags & tcpFlags.syn) !== 0) this.synchronize(segment, sender);
    const first = (flags & tcpFlags.syn) === 0 ? segment.sequence : (segment.sequence + 1) >>> 0;
    /* The reason that some send behind a reset is no payload (RFC 9293 §3.5.3). */
    if (segment.payloadLength > 0 && (flags & tcpFlags.reset) === 0) {
      this.firstToSpeak ??= sender;
      this.lastToSpeak = sender;
      const recordedTo = segment.payloadAt + Math.min(segment.payloadRecorded, segment.payloadLength);
      side.sent.take(first, segment.bytes, segment.payloadAt, recordedTo, segment.payloadLength, at, side);
    } else if ((flags & tcpFlags.acknowledge) !== 0 && (flags & tcpFlags.reset) === 0) side.sent.begin(first);
    if ((flags & tcpFlags.acknowledge) !== 0) other.sent.acknowledge(segment.acknowledged, at, other);
    if ((flags & tcpFlags.fin) !== 0 && this.resetBy === null) {
      side.hasFin = true;
      this.finFirst ??= sender;
    }
    if ((flags & tcpFlags.reset) !== 0) this.resetBy ??= sender;
  }

  /** Somebody on the way has said that a packet of this connection went no further. */
  answered(answer: Unreachable): void {
    this.lastAt = Math.max(this.lastAt, answer.segment.at);
    if (this.synAcknowledgedBy !== null || this.unreachable !== null) return;
    const words = unreachableWords(answer.code, answer.isVersion6);
    if (words === null) return;
    const from = addressText(answer.bytes.subarray(answer.fromAt, answer.fromAt + (answer.isVersion6 ? 16 : 4)));
    this.unreachable = `${from} answered that ${words}.`;
  }

  private synchronize(segment: Segment, sender: End): void {
    if ((segment.flags & tcpFlags.acknowledge) !== 0) this.synAcknowledgedBy ??= sender;
    else if (this.synBy === null) {
      this.synBy = sender;
      this.synSequence = segment.sequence;
    }
    this.sides[sender].sent.begin((segment.sequence + 1) >>> 0);
  }

  heard(from: End, bytes: Uint8Array, begin: number, end: number): void {
    if (this.listener) this.listener.hear(from, bytes, begin, end, this.lastAt);
    else if (!this.sides[from].isForeign) this.begins(from, bytes.subarray(begin, end));
  }

  private begins(from: End, bytes: Uint8Array): void {
    const side = this.sides[from];
    if (!side.head && bytes.length >= headBytes) return this.recognise(from, bytes, bytes);
    /* The first bytes came in pieces: as many of them wait as it takes to tell. */
    const before = side.head?.length ?? 0;
    const all = new Uint8Array(before + bytes.length);
    if (side.head) all.set(side.head);
    all.set(bytes, before);
    this.recognise(from, all.subarray(0, headBytes), all);
  }

  private recognise(from: End, head: Uint8Array, all: Uint8Array): void {
    const side = this.sides[from];
    let mayBe = false;
    for (const dialect of this.dialects) {
      const is = dialect.recognises(head.subarray(0, headBytes));
      if (is) return this.listen(dialect, from, all);
      mayBe ||= is === null;
    }
    if (mayBe && all.length < headBytes) {
      side.head = all.slice();
      return;
    }
    side.head = null;
    side.looks += 1;
    /* With its beginning, it is what it is from the first byte; without, a message may begin with a later segment. */
    if (this.synBy !== null || side.looks >= mostLooks) side.isForeign = true;
  }

  private listen(dialect: Dialect, from: End, all: Uint8Array): void {
    this.protocol = dialect.protocol;
    this.listener = dialect.listen(this.budget);
    const other: End = from === 0 ? 1 : 0;
    const before = this.sides[other].head;
    if (before) this.listener.hear(other, before, 0, before.length, this.lastAt);
    this.sides[0].head = null;
    this.sides[1].head = null;
    this.listener.hear(from, all, 0, all.length, this.lastAt);
  }

  missed(from: End, count: number): void {
    this.listener?.miss(from, count);
    this.sides[from].head = null;
  }

  /** What became of it. Nothing more may be taken afterwards. */
  told(end: CaptureEnd): Conversation {
    for (const side of this.sides) side.sent.end(side);
    this.listener?.end();
    const client = this.client();
    const server: End = client === 0 ? 1 : 0;
    const outcome = this.outcome(client, end);
    const place = (which: End): Place => ({
      address: addressText(this.addresses[which]),
      port: this.ports[which],
    });
    const conversation: Conversation = {
      protocol: this.protocol,
      client: place(client),
      server: place(server),
      start: this.begunAt,
      end: this.lastAt,
      packets: this.sides[0].packets + this.sides[1].packets,
      bytes: this.sides[0].sent.bytes + this.sides[1].sent.bytes,
      outcome,
      closedFirstBy: outcome === 'closed' ? (this.finFirst === client ? 'client' : 'server') : undefined,
      position: this.position,
      notes: this.notes(client, outcome),
    };
    if (!this.listener) return conversation;
    const told = this.listener.told();
    return { ...conversation, ...told, notes: [...conversation.notes, ...told.notes] };
  }

  /** Which end has asked for the connection, as far as that can be told. */
  client(): End {
    if (this.synBy !== null) return this.synBy;
    if (this.synAcknowledgedBy !== null) return this.synAcknowledgedBy === 0 ? 1 : 0;
    const asks = this.listener?.asks ?? null;
    if (asks !== null) return asks;
    const [first, second] = this.ports.map(isServerPort);
    if (first !== second) return first === true ? 1 : 0;
    return this.firstToSpeak ?? 0;
  }

  private outcome(client: End, end: CaptureEnd): ConversationOutcome {
    const server: End = client === 0 ? 1 : 0;
    const isAnswered = this.synAcknowledgedBy !== null || this.sides[server].sent.bytes > 0;
    if (this.synBy !== null && !isAnswered) {
      if (this.resetBy === server) return 'refused';
      if (this.unreachable !== null) return 'prohibited';
      if (this.isOnlyAsking(client)) return 'silent';
    }
    if (this.sides[0].hasFin && this.sides[1].hasFin) return 'closed';
    if (this.resetBy !== null) return this.resetBy === client ? 'reset-by-client' : 'reset-by-server';
    return this.isCutOff(end) ? 'cut-off' : 'left-open';
  }

  /** Nothing of the other end was seen, and nothing shows that it has answered all the same. */
  private isOnlyAsking(client: End): boolean {
    const side = this.sides[client];
    return this.sides[client === 0 ? 1 : 0].packets === 0 && side.sent.bytes === 0 && !side.hasFin;
  }

  /** Whether the capture ends in the midst of it; what nobody has used for a while before was left open. */
  private isCutOff({ at, isCutOff }: CaptureEnd): boolean {
    if (at === null || at - this.lastAt > inUseMicroseconds) return false;
    return isCutOff || this.isAmid;
  }

  private get isAmid(): boolean {
    if (this.listener) return this.listener.isAmid;
    const { lastToSpeak } = this;
    return lastToSpeak !== null && !this.sides[lastToSpeak].sent.isAcknowledged;
  }

  private notes(client: End, outcome: ConversationOutcome): string[] {
    const notes: string[] = [];
    const named = (end: End): string => (end === client ? 'client' : 'server');
    if (this.synBy === null && this.synAcknowledgedBy === null) notes.push('Its beginning was not recorded.');
    if (outcome === 'prohibited' && this.unreachable) notes.push(this.unreachable);
    const isHalf = this.sides[0].hasFin !== this.sides[1].hasFin;
    if (this.finFirst !== null && outcome === 'closed') notes.push(`The ${named(this.finFirst)} closed it first.`);
    if (this.finFirst !== null && isHalf && (outcome === 'left-open' || outcome === 'cut-off'))
      notes.push(`Only the ${named(this.finFirst)} has closed its side.`);
    if (
      outcome === 'left-open' &&
      this.synBy !== null &&
      this.sides[client].packets === 1 &&
      this.synAcknowledgedBy !== null
    )
      notes.push('The server answered, and the client said nothing more.');
    const silent = this.sides.findIndex((side) => side.packets === 0);
    if (silent >= 0 && outcome !== 'silent' && outcome !== 'prohibited')
      notes.push(`Nothing that the ${named(silent as End)} sent was recorded.`);
    if (this.sides.some((side) => side.sent.hasGaps)) notes.push('Some of what was sent was not recorded.');
    return notes;
  }
}
