import { hexOf } from '../../trust/x509/der.js';
import { sha1 } from '@noble/hashes/legacy';
import { BinaryFault, BinaryReader, typeIdAt, typeIdBytes, u32At } from '../../ua/binary-reader.js';
import { serviceFault, serviceMessageOf } from '../../ua/service-types.js';
import type { ServiceMessage } from '../../ua/service-types.js';
import type { SecurityMode } from '../../ua/security-policies.js';
import { statusCodeNamed } from '../../ua/status-codes.js';
import type { ConnectionLimits } from '../../ua/tcp-messages.js';
import type { TokenType } from '../../ua/user-tokens.js';
import { readCertificate } from '../../trust/certificate.js';
import type { Budget } from '../capture/budget.js';
import type { HeardError, Told } from '../conversation/conversation.js';
import type { Dialect, End, Listener, Say } from '../conversation/dialect.js';
import { KeptBytes } from '../conversation/kept-bytes.js';
import { Chunks, messageTypeOf } from './chunks.js';
import type { Chunk, MessageType } from './chunks.js';
import { readSessionWish, readSignIn } from './session-messages.js';
import { HeardCalls } from './heard-calls.js';
import { saidChunk } from './said-chunk.js';

/** UA TCP: recognised by its messages, whatever the port (Part 6 §6.7, §7.1). */
export const uaTcp: Dialect = {
  protocol: 'opc.tcp',
  recognises: (head) => {
    if (head.length < 4)
      return head.length === 0 || 'HAERMOC'.includes(String.fromCharCode(head[0] ?? 0)) ? null : false;
    if (messageTypeOf(head, 0) === null) return false;
    if (head.length < 8) return null;
    const size = new DataView(head.buffer, head.byteOffset + 4, 4).getUint32(0, true);
    return size >= 8 && size <= 256 << 20;
  },
  listen: (budget, say) => new UaListener(budget, say),
};

const noneUri = 'http://opcfoundation.org/UA/SecurityPolicy#None';
/** Of most messages only the beginning is wanted: what it is, and what came of it. */
const beginning = 96;
const ofSession = 64 << 10;
/** In a chunk of a message: the channel and its token; the sequence header. */
const tokenBytes = 8;
const sequenceBytes = 8;
const contentAt = tokenBytes + sequenceBytes;
const mostParts = 16;
/** A certificate that is larger is not looked at. */
const mostCertificate = 16 << 10;
/** Sequence numbers begin anew before the end of 32 bits, below 1024 (Part 6 §6.7.2.4). */
const wrapsFrom = 0xffffffff - 1024;

/** What one end has sent. */
class Sent {
  readonly chunks: Chunks;
  lastSequence: number | null = null;
  jumps = 0;
  /** Messages that can’t be read. */
  hidden = 0;
  /** Beginnings of messages that come in several chunks, by the request they belong to. */
  readonly parts = new Map<number, KeptBytes>();

  constructor(
    listener: UaListener,
    from: End,
    private readonly budget: Pick<Budget, 'take' | 'give'>,
  ) {
    this.chunks = new Chunks(
      {
        wanted: (type, bytes, begin, end) => listener.wanted(type, bytes, begin, end),
        chunk: (chunk) => listener.chunk(from, chunk),
      },
      budget,
    );
  }

  /** What has come so far of a message, with one more chunk of it. */
  whole(requestId: number, content: Uint8Array, isWhole: boolean): Uint8Array {
    const before = this.parts.get(requestId);
    if (!before) return content;
    if (isWhole) before.add(content, ofSession);
    return before.bytes;
  }

  keep(requestId: number, content: Uint8Array, isWhole: boolean): void {
    if (this.parts.has(requestId)) return void this.whole(requestId, content, isWhole);
    if (this.parts.size === mostParts) return;
    const kept = new KeptBytes(this.budget);
    kept.add(content, ofSession);
    this.parts.set(requestId, kept);
  }

  forget(requestId: number): void {
    this.parts.get(requestId)?.end();
    this.parts.delete(requestId);
  }

  end(): void {
    this.chunks.end();
    for (const kept of this.parts.values()) kept.end();
  }
}

class UaListener implements Listener {
  asks: End | null = null;
  private readonly sent: readonly [Sent, Sent];
  private readonly calls = new HeardCalls();
  private readonly said: string[] = [];
  private endpointUrl: string | undefined;
  private securityPolicyUri: string | undefined;
  private securityMode: SecurityMode | undefined;
  private senderThumbprint: string | undefined;
  private receiverThumbprint: string | undefined;
  private senderCertificate: Uint8Array | undefined;
  private user: string | undefined;
  private limits: ConnectionLimits | undefined;
  private signedInBy: TokenType | undefined;
  private hasClearPassword = false;
  private ended: HeardError | null = null;
  private isClosed = false;
  /** A Hello waits for its answer. */
  private isGreeting = false;
  private answeredOpening = false;
  private at = 0;

  constructor(
    budget: Pick<Budget, 'take' | 'give'>,
    private readonly tellMessage: Say | undefined,
  ) {
    this.sent = [new Sent(this, 0, budget), new Sent(this, 1, budget)];
  }

  hear(from: End, bytes: Uint8Array, begin: number, end: number, at: number): void {
    this.at = at;
    this.sent[from].chunks.take(bytes, begin, end);
  }

  miss(from: End, count: number): void {
    const sent = this.sent[from];
    sent.chunks.miss(count);
    sent.lastSequence = null;
  }

  get isAmid(): boolean {
    if (this.isClosed || this.ended) return false;
    const [first, second] = this.sent;
    const isHiddenAsked = this.asks !== null && this.sent[this.asks].hidden > this.sent[this.asks === 0 ? 1 : 0].hidden;
    return first.chunks.isAmid || second.chunks.isAmid || this.isGreeting || this.calls.isWaiting || isHiddenAsked;
  }

  end(): void {
    for (const sent of this.sent) sent.end();
  }

  told(): Told {
    const error = this.ended ?? this.calls.error;
    const { services } = this.calls;
    return {
      endpointUrl: this.endpointUrl,
      securityPolicyUri: this.securityPolicyUri,
      securityMode: this.securityMode,
      senderThumbprint: this.senderThumbprint,
      receiverThumbprint: this.receiverThumbprint,
      senderCertificate: this.senderCertificate,
      hiddenMessages: this.sent[0].hidden + this.sent[1].hidden || undefined,
      services: services.length > 0 ? services : undefined,
      error: error ?? undefined,
      user: this.user,
      limits: this.limits,
      signedInBy: this.signedInBy,
      hasClearPassword: this.hasClearPassword || undefined,
      notes: [...this.said, ...this.calls.notes, ...this.closingNotes()],
    };
  }

  private closingNotes(): string[] {
    const notes: string[] = [];
    const hidden = this.sent[0].hidden + this.sent[1].hidden;
    if (hidden === 1) notes.push('1 message was encrypted: what it says can’t be told.');
    if (hidden > 1) notes.push(`${hidden} messages were encrypted: what they say can’t be told.`);
    const losses = this.sent[0].chunks.losses + this.sent[1].chunks.losses;
    if (losses > 0) notes.push('Something that is no UA message stood between messages, or a part was missing.');
    const jumps = this.sent[0].jumps + this.sent[1].jumps;
    if (jumps > 0)
      notes.push(`Sequence numbers did not follow one another, ${jumps === 1 ? 'once' : `${jumps} times`}.`);
    return notes;
  }

  /** How much of a chunk is wanted, by what it begins with. */
  wanted(type: MessageType, bytes: Uint8Array, begin: number, end: number): number {
    if (this.tellMessage) return ofSession;
    if (type !== 'MSG') return type === 'CLO' ? beginning : ofSession;
    const length = end - begin;
    if (length < beginning) return beginning;
    const message = messageAt(bytes, begin + contentAt, end);
    const isWanted =
      message?.isRequest === true && (message.name === 'CreateSession' || message.name === 'ActivateSession');
    return isWanted ? ofSession : length;
  }

  chunk(from: End, chunk: Chunk): void {
    const asked = this.tellMessage ? this.askedBy(chunk) : null;
    try {
      this.read(from, chunk);
    } catch (error) {
      if (!(error instanceof BinaryFault)) throw error;
      this.say(`A message of kind ${chunk.type} is broken.`);
    }
    if (!this.tellMessage) return;
    const isRequest = this.asks === null || this.asks === from;
    const isEncrypted = this.securityMode === 'SignAndEncrypt';
    this.tellMessage(saidChunk(from, chunk, { isRequest, asked, isEncrypted }));
  }

  /** The service that a message answers; null: none that is known. */
  private askedBy({ type, bytes, begin, end }: Chunk): string | null {
    return type === 'MSG' && end - begin >= contentAt ? this.calls.nameOf(u32At(bytes, begin + 12)) : null;
  }

  private read(from: End, chunk: Chunk): void {
    if (chunk.type === 'MSG') return this.message(from, chunk);
    const reader = new BinaryReader(chunk.body);
    switch (chunk.type) {
      case 'HEL':
        this.asksBy(from);
        this.isGreeting = true;
        reader.skip(20);
        this.endpointUrl ??= reader.string() ?? undefined;
        return;
      case 'ACK':
        this.isGreeting = false;
        this.asksBy(opposite(from));
        this.limits ??= {
          protocolVersion: reader.u32(),
          receiveBufferSize: reader.u32(),
          sendBufferSize: reader.u32(),
          maxMessageSize: reader.u32(),
          maxChunkCount: reader.u32(),
        };
        return;
      case 'RHE': {
        this.asksBy(opposite(from));
        const [serverUri, endpointUrl] = [reader.string(), reader.string()];
        this.endpointUrl ??= endpointUrl ?? undefined;
        return this.say(`The server ${serverUri ?? 'without a name'} called its client (ReverseHello).`);
      }
      case 'ERR': {
        const code = reader.u32();
        this.ended ??= { code, name: statusCodeNamed(code), reason: reader.string() ?? '' };
        return;
      }
      case 'OPN':
        return this.opening(from, chunk, reader);
      case 'CLO':
        return this.closing(from, chunk);
    }
  }

  private asksBy(end: End): void {
    this.asks ??= end;
  }

  private opening(from: End, { body }: Chunk, reader: BinaryReader): void {
    reader.skip(4);
    const policy = reader.string();
    const certificate = reader.byteString();
    const receiver = reader.byteString();
    const rest = body.subarray(reader.at);
    const isPlain = policy === noneUri || policy === null;
    const inner = messageAt(rest, sequenceBytes, rest.length);
    const isRequest = inner ? inner.isRequest : this.asks === null ? !this.answeredOpening : from === this.asks;
    if (isRequest) {
      this.asksBy(from);
      this.securityPolicyUri ??= policy ?? noneUri;
      if (policy !== null && policy !== this.securityPolicyUri)
        this.say(`The channel was opened again with ${policy}.`);
      if (certificate && !this.senderThumbprint) {
        this.senderThumbprint = thumbprintOf(certificate);
        this.senderCertificate = certificate.slice(0, mostCertificate);
      }
      if (receiver) this.receiverThumbprint ??= hexOf(receiver);
    } else this.answeredOpening = true;
    if (isPlain) this.securityMode ??= 'None';
    const requestId = isPlain || inner ? this.sequence(from, rest, 0) : null;
    if (requestId !== null && inner) {
      if (isRequest) this.modeIn(rest.subarray(sequenceBytes));
      return this.call(from, requestId, rest, sequenceBytes, rest.length);
    }
    /* Hidden, an opening is still an opening, and an answer to it a success: refusals are told by an Error. */
    if (isRequest) this.calls.asked(openingId, 'OpenSecureChannel', this.at);
    else this.calls.answered(openingId, 0);
  }

  /** The mode that a request asks for, where it can be read (Part 4 §5.6.2). */
  private modeIn(body: Uint8Array): void {
    const reader = new BinaryReader(body);
    reader.nodeId();
    reader.requestHeader();
    reader.skip(8);
    const modes: readonly (SecurityMode | undefined)[] = [undefined, 'None', 'Sign', 'SignAndEncrypt'];
    this.securityMode = modes[reader.u32()] ?? this.securityMode;
  }

  private closing(from: End, { body }: Chunk): void {
    this.asksBy(from);
    this.isClosed = true;
    this.calls.close();
    const rest = body.subarray(tokenBytes);
    if (messageAt(rest, sequenceBytes, rest.length)) this.sequence(from, rest, 0);
    this.calls.asked(closingId, 'CloseSecureChannel', this.at);
    this.calls.close();
  }

  private message(from: End, chunk: Chunk): void {
    const { ending } = chunk;
    const sent = this.sent[from];
    /* What is too short reads as zeros behind its end. */
    const isShort = chunk.end - chunk.begin < contentAt;
    const bytes = isShort ? chunk.body : chunk.bytes;
    const begin = isShort ? 0 : chunk.begin;
    const at = begin + contentAt;
    const end = isShort ? at : chunk.end;
    if (this.isHidden(bytes, at, end)) {
      if (ending !== 'C') sent.hidden += 1;
      return;
    }
    const requestId = this.sequence(from, bytes, begin + tokenBytes);
    if (ending === 'F' && sent.parts.size === 0) return this.call(from, requestId, bytes, at, end);
    const content = bytes.subarray(at, end);
    if (ending === 'A') {
      sent.forget(requestId);
      const reader = new BinaryReader(content);
      return this.calls.answered(requestId, reader.u32(), reader.string() ?? '');
    }
    if (ending === 'C') return sent.keep(requestId, content, chunk.isWhole);
    /* A signature stands at the end of what is signed: nothing that is read here comes that late. */
    const whole = sent.whole(requestId, content, chunk.isWhole);
    this.call(from, requestId, whole, 0, whole.length);
    sent.forget(requestId);
  }

  /** Whether messages are encrypted: then no service’s message begins where one should. */
  private isHidden(bytes: Uint8Array, at: number, end: number): boolean {
    if (this.securityMode === 'None' || this.securityMode === 'Sign') return false;
    if (this.securityMode === 'SignAndEncrypt') return true;
    const isReadable = messageAt(bytes, at, end) !== null;
    /* Without the opening of the channel, what can be read may be signed or not. */
    if (this.securityPolicyUri !== undefined) this.securityMode = isReadable ? 'Sign' : 'SignAndEncrypt';
    return !isReadable;
  }

  /** Looks at the sequence header at a place. @returns the request that a message belongs to */
  private sequence(from: End, bytes: Uint8Array, at: number): number {
    const number = u32At(bytes, at);
    const sent = this.sent[from];
    const last = sent.lastSequence;
    const follows = last === null || number === last + 1 || (last >= wrapsFrom && number < 1024);
    if (!follows) sent.jumps += 1;
    sent.lastSequence = number;
    return u32At(bytes, at + 4);
  }

  /** A service's message, from one place in the bytes to another. */
  private call(from: End, requestId: number, bytes: Uint8Array, begin: number, end: number): void {
    const typeId = typeIdAt(bytes, begin, end);
    const message = typeId === null ? null : serviceMessageOf(typeId);
    if (!message) return this.say(`A message of type ${typeId ?? 'unknown'} is of no service that is known.`);
    this.asksBy(message.isRequest ? from : opposite(from));
    if (message.isRequest) {
      this.calls.asked(requestId, message.name, this.at);
      if (message.name === 'CreateSession') this.createSession(bytes.subarray(begin, end));
      if (message.name === 'ActivateSession') this.activateSession(bytes.subarray(begin, end));
      return;
    }
    /* Its time and the request that it answers stand before its result (Part 4 §7.34). */
    const codeAt = begin + typeIdBytes(bytes, begin) + 12;
    if (codeAt + 4 > end) throw new BinaryFault('An answer without its result.');
    const code = u32At(bytes, codeAt);
    this.calls.answered(requestId, code, typeId === serviceFault && code === 0 ? 'A fault that says Good.' : '');
  }

  private createSession(body: Uint8Array): void {
    const { applicationUri, endpointUrl } = readSessionWish(body);
    if (applicationUri) this.say(`The client calls itself ${applicationUri}.`);
    this.endpointUrl ??= endpointUrl ?? undefined;
  }

  private activateSession(body: Uint8Array): void {
    const told = readSignIn(body);
    if (!told) return;
    const { tokenType, userName, certificate, hasClearPassword } = told;
    this.signedInBy = tokenType;
    if (tokenType === 'Anonymous') this.say('Signed in without a name (anonymous).');
    if (tokenType === 'IssuedToken') this.say('Signed in by a token that another service has issued.');
    if (tokenType === 'UserName') this.user = userName ?? undefined;
    if (tokenType === 'Certificate') {
      const read = certificate && readCertificate(certificate);
      if (read?.ok) this.user = read.certificate.summary.subject;
      this.say(`Signed in by a user certificate${certificate ? `, thumbprint ${thumbprintOf(certificate)}` : ''}.`);
    }
    if (!hasClearPassword) return;
    this.hasClearPassword = true;
    this.say('A password went over this connection in clear text.');
  }

  /** Says it once. */
  private say(sentence: string): void {
    if (this.said.length < mostNotes && !this.said.includes(sentence)) this.said.push(sentence);
  }
}
const mostNotes = 32;
/** Calls without a request id that can be read; real ones are below 2³². */
const openingId = -1;
const closingId = -2;

const opposite = (end: End): End => (end === 0 ? 1 : 0);

function messageAt(bytes: Uint8Array, at: number, end: number): ServiceMessage | null {
  const typeId = typeIdAt(bytes, at, end);
  return typeId === null ? null : serviceMessageOf(typeId);
}

/** Of the certificate that stands first, where those that signed it follow (Part 6 §6.7.2.3). */
function thumbprintOf(chain: Uint8Array): string {
  const isLong = chain[0] === 0x30 && chain[1] === 0x82;
  const length = isLong ? 4 + (((chain[2] ?? 0) << 8) | (chain[3] ?? 0)) : chain.length;
  return hexOf(sha1(chain.subarray(0, Math.min(length, chain.length))));
}
