import { readCertificate } from '../../trust/certificate.js';
import type { Budget } from '../capture/budget.js';
import type { HeardError, Told } from '../conversation/conversation.js';
import type { Dialect, End, Listener, SaidMessage, Say } from '../conversation/dialect.js';
import { KeptBytes } from '../conversation/kept-bytes.js';
import { alertNamed, isOldVersion, versionNamed } from './tls-names.js';

const records = { changeCipher: 20, alert: 21, handshake: 22, applicationData: 23 } as const;
const messages = { clientHello: 1, serverHello: 2, certificate: 11, certificateRequest: 13 } as const;
/** RFC 8446 §4, RFC 5246 §7.4. */
const handshakeNames: Readonly<Record<number, string>> = {
  1: 'ClientHello',
  2: 'ServerHello',
  4: 'NewSessionTicket',
  8: 'EncryptedExtensions',
  11: 'Certificate',
  12: 'ServerKeyExchange',
  13: 'CertificateRequest',
  14: 'ServerHelloDone',
  15: 'CertificateVerify',
  16: 'ClientKeyExchange',
  20: 'Finished',
};
const extensions = { serverName: 0, protocols: 16, versions: 43 } as const;
const headBytes = 5;
/** A record has at most 2¹⁴ bytes, and what protecting it adds (RFC 5246 §6.2.3). */
const mostRecord = (1 << 14) + 2048;
const mostHandshake = 64 << 10;

/** TLS, as far as the handshake tells (RFC 8446, RFC 5246). */
export const tls: Dialect = {
  protocol: 'tls',
  recognises: (head) => {
    const [type, major, minor] = head;
    if (type !== undefined && type !== records.handshake) return false;
    if ((major !== undefined && major !== 3) || (minor !== undefined && minor > 4)) return false;
    if (head.length < 6) return null;
    return head[5] === messages.clientHello || head[5] === messages.serverHello;
  },
  listen: (budget, say) => new TlsListener(budget, say),
};

/** What one end has sent: records, and the handshake that lies in them. */
class Sent {
  readonly head = new Uint8Array(headBytes);
  headFilled = 0;
  type = 0;
  left = 0;
  readonly handshake: KeptBytes;
  readonly alert: KeptBytes;
  /** What follows is encrypted. */
  isHidden = false;
  isLost = false;

  constructor(budget: Pick<Budget, 'take' | 'give'>) {
    this.handshake = new KeptBytes(budget);
    this.alert = new KeptBytes(budget);
  }
}

class TlsListener implements Listener {
  asks: End | null = null;
  private readonly sent: readonly [Sent, Sent];
  private readonly said: string[] = [];
  private version: number | null = null;
  private hasData = false;
  private ended: HeardError | null = null;

  constructor(
    budget: Pick<Budget, 'take' | 'give'>,
    private readonly tellMessage: Say | undefined,
  ) {
    this.sent = [new Sent(budget), new Sent(budget)];
  }

  hear(from: End, bytes: Uint8Array, begin: number, end: number): void {
    const sent = this.sent[from];
    let at = begin;
    while (at < end && !sent.isLost)
      at = sent.left > 0 ? this.takeBody(from, bytes, at, end) : this.takeHead(from, bytes, at, end);
  }

  miss(from: End, count: number): void {
    const sent = this.sent[from];
    if (sent.left >= count && (sent.type === records.applicationData || sent.isHidden)) sent.left -= count;
    else sent.isLost = true;
  }

  get isAmid(): boolean {
    if (this.ended) return false;
    return this.sent.some((sent) => !sent.isLost && (sent.left > 0 || sent.headFilled > 0)) || !this.hasData;
  }

  end(): void {
    for (const { handshake, alert } of this.sent) {
      handshake.end();
      alert.end();
    }
  }

  told(): Told {
    const notes = [...this.said];
    if (this.version !== null) {
      notes.unshift(`${versionNamed(this.version)} was agreed on.`);
      if (isOldVersion(this.version)) notes.push(`${versionNamed(this.version)} is no longer secure.`);
    }
    if (!this.hasData && !this.ended) notes.push('The handshake was not finished.');
    return { error: this.ended ?? undefined, notes };
  }

  private takeHead(from: End, bytes: Uint8Array, at: number, to: number): number {
    const sent = this.sent[from];
    const count = Math.min(headBytes - sent.headFilled, to - at);
    sent.head.set(bytes.subarray(at, at + count), sent.headFilled);
    sent.headFilled += count;
    if (sent.headFilled === headBytes) this.begin(from, sent);
    return at + count;
  }

  private begin(from: End, sent: Sent): void {
    sent.headFilled = 0;
    const [type = 0, major = 0, , high = 0, low = 0] = sent.head;
    const length = (high << 8) | low;
    if (type < records.changeCipher || type > 24 || major !== 3 || length > mostRecord) {
      sent.isLost = true;
      this.say('Something that is no TLS followed.');
      return;
    }
    sent.type = type;
    sent.left = length;
    if (type === records.applicationData || sent.isHidden)
      this.tell(from, { what: 'Encrypted data', size: length, withheld: 'It is encrypted: its bytes tell nothing.' });
    if (type === records.applicationData) {
      sent.isHidden = true;
      this.hasData ||= this.sent[from === 0 ? 1 : 0].isHidden;
    }
    if (type === records.changeCipher && this.version !== null && this.version < 0x0304) sent.isHidden = true;
  }

  private takeBody(from: End, bytes: Uint8Array, at: number, to: number): number {
    const sent = this.sent[from];
    const end = Math.min(at + sent.left, to);
    sent.left -= end - at;
    if (!sent.isHidden && sent.type === records.handshake) {
      sent.handshake.add(bytes.subarray(at, end), mostHandshake);
      this.handshakes(from, sent);
    } else if (!sent.isHidden && sent.type === records.alert) {
      sent.alert.add(bytes.subarray(at, end), 2);
      if (sent.left === 0) this.alerted(from, sent);
    }
    return end;
  }

  private alerted(from: End, { alert }: Sent): void {
    const [level = 0, description = 0] = alert.bytes;
    alert.clear();
    if (description === 0) return;
    const name = alertNamed(description);
    this.tell(from, { what: 'Alert', size: 2, says: `${name}.`, outcome: level === 2 ? 'badly' : null });
    if (level === 2) this.ended ??= { code: description, name, reason: `The ${this.nameOf(from)} ended it.` };
    else this.say(`The ${this.nameOf(from)} warned: ${name}.`);
  }

  private nameOf(from: End): string {
    return from === this.asks ? 'client' : 'server';
  }

  /** All messages that are whole; what is left waits. */
  private handshakes(from: End, sent: Sent): void {
    const all = sent.handshake.bytes;
    let at = 0;
    while (at + 4 <= all.length) {
      const length = ((all[at + 1] ?? 0) << 16) | ((all[at + 2] ?? 0) << 8) | (all[at + 3] ?? 0);
      if (at + 4 + length > all.length) break;
      const before = this.said.length;
      this.message(from, all[at] ?? 0, all.subarray(at + 4, at + 4 + length));
      const what = handshakeNames[all[at] ?? 0] ?? 'Handshake';
      const says = this.said.slice(before).join(' ');
      this.tell(from, { what, size: 4 + length, says, bytes: all.subarray(at, at + 4 + length) });
      at += 4 + length;
    }
    if (at === 0) return;
    const rest = all.slice(at);
    sent.handshake.clear();
    sent.handshake.add(rest, mostHandshake);
  }

  private message(from: End, type: number, body: Uint8Array): void {
    const reader = new Octets(body);
    if (type === messages.clientHello) this.clientHello(from, reader);
    else if (type === messages.serverHello) this.serverHello(from, reader);
    else if (type === messages.certificate) this.certificate(from, reader);
    else if (type === messages.certificateRequest) this.say('The server asked for a certificate.');
  }

  private clientHello(from: End, reader: Octets): void {
    this.asks ??= from;
    reader.skip(34);
    reader.vector(1);
    reader.vector(2);
    reader.vector(1);
    for (const [kind, value] of extensionsIn(reader)) {
      if (kind === extensions.serverName) {
        value.skip(3);
        const name = latin(value.vector(2));
        if (name) this.say(`The client asked for ${name}.`);
      }
      if (kind === extensions.protocols) {
        const names: string[] = [];
        const list = new Octets(value.vector(2));
        while (list.left > 0 && names.length < 8) names.push(latin(list.vector(1)));
        if (names.length > 0) this.say(`The client offered ${names.join(', ')}.`);
      }
    }
  }

  private serverHello(from: End, reader: Octets): void {
    this.asks ??= from === 0 ? 1 : 0;
    this.version = reader.number(2);
    reader.skip(32);
    reader.vector(1);
    reader.skip(3);
    for (const [kind, value] of extensionsIn(reader)) if (kind === extensions.versions) this.version = value.number(2);
    if (this.version === 0x0304)
      for (const sent of this.sent) sent.isHidden = sent.isHidden || sent === this.sent[from];
  }

  private certificate(from: End, reader: Octets): void {
    const list = new Octets(reader.vector(3));
    const first = list.vector(3);
    const read = first.length > 0 ? readCertificate(first) : null;
    if (read?.ok) this.say(`The ${this.nameOf(from)} showed the certificate of ${read.certificate.summary.subject}.`);
    else if (first.length === 0) this.say(`The ${this.nameOf(from)} showed no certificate.`);
  }

  private tell(from: End, message: Pick<SaidMessage, 'what' | 'size'> & Partial<SaidMessage>): void {
    const isAnswer = this.asks !== null && this.asks !== from;
    const usual = { isAnswer, outcome: null, says: '', details: [], bytes: new Uint8Array(), withheld: null };
    this.tellMessage?.({ from, ...usual, ...message });
  }

  private say(sentence: string): void {
    if (this.said.length < 32 && !this.said.includes(sentence)) this.said.push(sentence);
  }
}

/** Reads numbers and vectors; what lies beyond the end reads as nothing. */
class Octets {
  private at = 0;
  constructor(private readonly bytes: Uint8Array) {}

  get left(): number {
    return this.bytes.length - this.at;
  }
  skip(count: number): void {
    this.at = Math.min(this.at + count, this.bytes.length);
  }
  number(count: number): number {
    let value = 0;
    for (let index = 0; index < count; index += 1) value = value * 256 + (this.bytes[this.at + index] ?? 0);
    this.skip(count);
    return value;
  }
  /** Bytes behind their length of so many bytes. */
  vector(lengthBytes: number): Uint8Array {
    const length = this.number(lengthBytes);
    const from = this.at;
    this.skip(length);
    return this.bytes.subarray(from, this.at);
  }
}

function* extensionsIn(reader: Octets): Iterable<readonly [kind: number, value: Octets]> {
  const all = new Octets(reader.vector(2));
  for (let count = 0; all.left >= 4 && count < 64; count += 1) yield [all.number(2), new Octets(all.vector(2))];
}

const latin = (bytes: Uint8Array): string =>
  String.fromCharCode(...bytes.subarray(0, 255)).replace(/[^\x20-\x7e]/g, '?');
