import { sayCode } from '../../dcom/codes.js';
import { Budget } from '../capture/budget.js';
import { CaptureFile } from '../capture/capture-file.js';
import { Connection } from '../capture/connection.js';
import { PacketReader } from '../capture/packets.js';
import { tcpFlags } from '../capture/packet.js';
import type { Segment, Unreachable } from '../capture/packet.js';
import type { SegmentEars } from '../capture/packets.js';
import type { Conversation } from '../conversation/conversation.js';
import type { Dialect, End, SaidMessage } from '../conversation/dialect.js';

/** One thing that was said, or done to the connection. */
export interface StoryMessage {
  /** Its place in the story. */
  readonly index: number;
  /** Microseconds since 1970. */
  readonly at: number;
  readonly from: 'client' | 'server' | 'network';
  /** Of the connection itself, or of what is spoken on it. */
  readonly layer: 'connection' | 'message';
  readonly what: string;
  readonly isAnswer: boolean;
  readonly outcome: 'well' | 'badly' | null;
  readonly says: string;
  readonly details: readonly (readonly [name: string, value: string])[];
  readonly size: number;
  /** Why its bytes are not shown; null: they may be. */
  readonly withheld: string | null;
}

/** What passed between two machines on one connection, in order. */
export interface Story {
  readonly conversation: Conversation;
  readonly messages: readonly StoryMessage[];
  /** Messages beyond the most that are told. */
  readonly leftOut: number;
  /** The bytes of the message that was asked for, as many as are kept; null: none was, or they are withheld. */
  readonly bytes: Uint8Array | null;
}

const mostMessages = 2000;
const mostBytes = 4096;
const mostHeld = 8 << 20;
/** When nothing came for so long after its end, it is over. */
const lingerMicroseconds = 30e6;
const notRecognised = 'Nobody can tell what it is, and it may hold a password.';

type Told = Omit<StoryMessage, 'index' | 'from'> & { readonly from: End | null };

/** Reads one conversation of a capture closely: each message, and what happened to the connection. */
export class StoryReading implements SegmentEars {
  private readonly file: CaptureFile;
  private connection: Connection | null = null;
  private readonly messages: Told[] = [];
  private leftOut = 0;
  private kept: Uint8Array | null = null;
  private readonly data: Told[] = [];
  private readonly asked: [number, number] = [0, 0];
  private readonly budget = new Budget(mostHeld);
  private readonly dialects: readonly Dialect[];
  private now = 0;
  /** The conversation is over, and nothing more of it can come. */
  isOver = false;

  /**
   * @param position where its first packet begins in the file, in bytes
   * @param bytesOf the message whose bytes are wanted, by its place in the story; null: of none
   */
  constructor(
    dialects: readonly Dialect[],
    private readonly position: number,
    private readonly bytesOf: number | null = null,
  ) {
    this.file = new CaptureFile(new PacketReader(this));
    this.dialects = dialects.map((dialect) => ({
      ...dialect,
      recognises: (head) => dialect.recognises(head),
      listen: (budget) => dialect.listen(budget, (said) => this.say(said)),
    }));
  }

  /** The next part of the file. */
  take(part: Uint8Array): void {
    if (!this.isOver) this.file.take(part);
  }

  /** @returns null: no conversation begins there */
  end(): Story | null {
    this.file.end();
    const { connection } = this;
    if (!connection) return null;
    const conversation = connection.told({ at: this.now, isCutOff: false });
    const told =
      conversation.protocol === 'tcp'
        ? [...this.messages, ...this.data].sort((one, other) => one.at - other.at)
        : this.messages;
    const isTurned = connection.client() === 1;
    return {
      conversation,
      messages: told.map((message, index) => ({ ...message, index, from: sideOf(message.from, isTurned) })),
      leftOut: this.leftOut,
      bytes: this.kept,
    };
  }

  segment(segment: Segment): void {
    this.now = Math.max(this.now, segment.at);
    if (!this.connection) {
      if (segment.position !== this.position) return;
      this.connection = new Connection(segment, 0, this.dialects, this.budget);
    }
    const sender = this.connection.senderOf(segment);
    if (sender === null || (segment.position !== this.position && this.connection.isAnother(segment))) {
      const isSame = sender !== null;
      const isLong = this.connection.isOver && segment.at - this.connection.lastAt > lingerMicroseconds;
      if (isSame || isLong) this.isOver = true;
      return;
    }
    if (this.isOver) return;
    this.noteOpening(segment, sender);
    this.connection.take(segment, sender);
    this.noteData(segment, sender);
    this.noteEnding(segment, sender);
  }

  unreachable(answer: Unreachable): void {
    const { connection } = this;
    if (!connection || connection.senderOf(answer.segment) === null) return;
    const before = connection.isOver;
    connection.answered(answer);
    if (!before && connection.isOver)
      this.add({ ...this.event(null, 'The network', 'answers that it can’t be reached'), outcome: 'badly' });
  }

  private noteOpening({ flags, at }: Segment, from: End): void {
    this.now = at;
    if ((flags & tcpFlags.syn) === 0) return;
    if ((flags & tcpFlags.acknowledge) !== 0)
      return this.add({ ...this.event(from, 'Connection', 'takes the connection'), isAnswer: true, outcome: 'well' });
    this.asked[from] += 1;
    this.add(this.event(from, 'Connection', this.asked[from] === 1 ? 'asks for a connection' : 'asks again'));
  }

  private noteData({ payloadLength, flags }: Segment, from: End): void {
    if (payloadLength === 0 || (flags & tcpFlags.reset) !== 0) return;
    if (this.data.length < mostMessages)
      this.data.push({
        ...this.event(from, 'Data', ''),
        layer: 'message',
        size: payloadLength,
        withheld: notRecognised,
      });
  }

  private noteEnding({ flags }: Segment, from: End): void {
    const isRefusal = this.asked[from === 0 ? 1 : 0] > 0 && this.messages.length === this.asked[from === 0 ? 1 : 0];
    if ((flags & tcpFlags.reset) !== 0)
      this.add({
        ...this.event(from, 'Connection', isRefusal ? 'refuses it: nothing listens at the port' : 'breaks it off'),
        outcome: 'badly',
      });
    else if ((flags & tcpFlags.fin) !== 0) this.add(this.event(from, 'Connection', 'closes its side'));
  }

  private event(from: End | null, what: string, says: string): Told {
    return {
      at: this.now,
      from,
      layer: 'connection',
      what,
      isAnswer: false,
      outcome: null,
      says,
      details: [],
      size: 0,
      withheld: null,
    };
  }

  private say({ bytes, code, ...said }: SaidMessage): void {
    if (this.messages.length === this.bytesOf && said.withheld === null) this.kept = bytes.slice(0, mostBytes);
    const codeWords = code === undefined ? '' : `${sayCode(code)}.`;
    this.add({ at: this.now, layer: 'message', ...said, says: [said.says, codeWords].filter(Boolean).join(' ') });
  }

  private add(told: Told): void {
    if (this.messages.length < mostMessages) this.messages.push(told);
    else this.leftOut += 1;
  }
}

const sideOf = (from: End | null, isTurned: boolean): StoryMessage['from'] => {
  if (from === null) return 'network';
  return (from === 0) === isTurned ? 'server' : 'client';
};
