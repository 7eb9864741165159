import { hexOf } from '../../trust/x509/der.js';
import type { PacketEar } from './capture-file.js';
import { Fragments } from './fragments.js';
import { ipStart, linkTypeNamed, noIp, unknownLinkType } from './link-layer.js';
import { Segment, Tally, Unreachable } from './packet.js';

export interface SegmentEars {
  /** The segment is only there during the call. */
  segment(segment: Segment): void;
  unreachable(answer: Unreachable): void;
}

const protocols = { icmp: 1, tcp: 6, fragment: 44, authentication: 51, icmpv6: 58, none: 59 } as const;
/** Headers that may stand between IPv6's own and what it carries (RFC 8200 §4, RFC 6275, 7401, 5533). */
const isExtension = (next: number): boolean =>
  next === 0 || next === 43 || next === 60 || next === 135 || next === 139 || next === 140;
const mostExtensions = 16;
const brokenIp = 'whose IP header is broken or cut off';

/** Where the addresses of an IP packet lie, and what it carries. */
interface Carried {
  isVersion6: boolean;
  sourceAt: number;
  destinationAt: number;
  protocol: number;
  /** What it carries begins here, ends here on the wire, and so much was recorded. */
  from: number;
  end: number;
  recordedEnd: number;
}

/** Finds the TCP segments in packets, whatever they were wrapped in. */
export class PacketReader implements PacketEar {
  readonly tally = new Tally();
  readonly fragments = new Fragments();
  packets = 0;
  private readonly segment = new Segment();
  private readonly answer = new Unreachable();
  private readonly carried: Carried = {
    isVersion6: false,
    sourceAt: 0,
    destinationAt: 0,
    protocol: 0,
    from: 0,
    end: 0,
    recordedEnd: 0,
  };

  /** The packet that is being read: its bytes, when it was recorded, and where it begins in the file. */
  private bytes: Uint8Array = new Uint8Array();
  private view: DataView = new DataView(new ArrayBuffer(0));
  private at = 0;
  private position = 0;

  constructor(private readonly ears: SegmentEars) {}

  packet(
    bytes: Uint8Array,
    view: DataView,
    from: number,
    to: number,
    length: number,
    linkType: number,
    at: number,
    position: number,
  ): void {
    this.packets += 1;
    /* Mostly the same as before: many packets lie in one part of the file. */
    if (this.view !== view) {
      this.bytes = bytes;
      this.view = view;
    }
    this.at = at;
    this.position = position;
    const start = ipStart(view, from, to, linkType);
    if (start === unknownLinkType) this.tally.count(linkTypeNamed(linkType));
    else if (start === noIp) this.tally.count('of no IP');
    else if (this.ip(start, to, to + (length - (to - from)))) this.transport();
  }

  /**
   * @param end where the packet ends on the wire, as far as its frame tells
   * @returns whether it carries something whole
   */
  private ip(from: number, recordedEnd: number, end: number): boolean {
    const version = from < recordedEnd ? this.view.getUint8(from) >> 4 : 0;
    if (version === 4) return this.version4(from, recordedEnd, end);
    return version === 6 ? this.version6(from, recordedEnd, end) : this.passOver('of neither IPv4 nor IPv6');
  }

  private passOver(what: string): false {
    this.tally.count(what);
    return false;
  }

  private version4(from: number, recordedEnd: number, end: number): boolean {
    const { view, carried } = this;
    const headBytes = (view.getUint8(from) & 0x0f) * 4;
    if (headBytes < 20 || from + headBytes > recordedEnd) return this.passOver(brokenIp);
    const total = view.getUint16(from + 2);
    /* Network cards that cut packets themselves are handed some without a length. */
    if (total !== 0 && total < headBytes) return this.passOver(brokenIp);
    carried.isVersion6 = false;
    carried.sourceAt = from + 12;
    carried.destinationAt = from + 16;
    carried.protocol = view.getUint8(from + 9);
    carried.from = from + headBytes;
    carried.end = total === 0 ? end : Math.min(from + total, end);
    carried.recordedEnd = Math.min(recordedEnd, carried.end);
    const fragment = view.getUint16(from + 6);
    if ((fragment & 0x3fff) === 0) return true;
    const key = `${hexOf(this.bytes.subarray(from + 12, from + 20))}.${view.getUint16(from + 4)}.${carried.protocol}`;
    return this.piece(key, from, (fragment & 0x1fff) * 8, (fragment & 0x2000) === 0);
  }

  private version6(from: number, recordedEnd: number, end: number): boolean {
    const { view, carried } = this;
    if (from + 40 > recordedEnd) return this.passOver(brokenIp);
    const length = view.getUint16(from + 4);
    carried.isVersion6 = true;
    carried.sourceAt = from + 8;
    carried.destinationAt = from + 24;
    carried.end = length === 0 ? end : Math.min(from + 40 + length, end);
    carried.recordedEnd = Math.min(recordedEnd, carried.end);
    let next = view.getUint8(from + 6);
    let place = from + 40;
    for (
      let count = 0;
      isExtension(next) || next === protocols.authentication || next === protocols.fragment;
      count += 1
    ) {
      if (count === mostExtensions || place + 8 > carried.recordedEnd) return this.passOver(brokenIp);
      const kind = next;
      next = view.getUint8(place);
      if (kind === protocols.fragment) {
        const word = view.getUint16(place + 2);
        carried.protocol = next;
        carried.from = place + 8;
        if ((word & 0xfff9) === 0) {
          place += 8;
          continue;
        }
        const key = `${hexOf(this.bytes.subarray(from + 8, from + 40))}.${view.getUint32(place + 4)}`;
        return this.piece(key, from, word & 0xfff8, (word & 1) === 0);
      }
      const size = view.getUint8(place + 1);
      place += kind === protocols.authentication ? (size + 2) * 4 : (size + 1) * 8;
    }
    carried.protocol = next;
    carried.from = place;
    return true;
  }

  /** A fragment; with the last one that was missing, the packet is read as if it had come whole. */
  private piece(key: string, ipAt: number, from: number, isLast: boolean): boolean {
    const { bytes, carried } = this;
    if (carried.recordedEnd < carried.end) return this.passOver('in fragments that were not recorded whole');
    const whole = this.fragments.take(key, bytes.subarray(carried.from, carried.end), from, isLast, this.at);
    if (!whole) return false;
    if (carried.isVersion6 && isExtension(carried.protocol))
      return this.passOver('in fragments with further headers inside');
    const headBytes = carried.isVersion6 ? 40 : 20;
    const packet = new Uint8Array(headBytes + whole.length);
    packet.set(bytes.subarray(ipAt, ipAt + headBytes));
    packet.set(whole, headBytes);
    this.bytes = packet;
    this.view = new DataView(packet.buffer);
    carried.sourceAt -= ipAt;
    carried.destinationAt -= ipAt;
    carried.from = headBytes;
    carried.end = packet.length;
    carried.recordedEnd = packet.length;
    return true;
  }

  private transport(): void {
    const { carried } = this;
    if (carried.protocol === protocols.tcp) {
      if (this.fill()) this.ears.segment(this.segment);
      else this.passOver('whose TCP header is broken or cut off');
    } else if (carried.protocol === (carried.isVersion6 ? protocols.icmpv6 : protocols.icmp)) this.icmp();
    else this.tally.count(carried.protocol === 17 ? 'of UDP' : `of IP protocol ${carried.protocol}`);
  }

  private fill(): boolean {
    const { segment, view } = this;
    const { from, end, recordedEnd, isVersion6, sourceAt, destinationAt } = this.carried;
    if (from + 20 > recordedEnd) return false;
    const headBytes = (view.getUint8(from + 12) >> 4) * 4;
    if (headBytes < 20 || from + headBytes > end) return false;
    this.place(segment, isVersion6, sourceAt, destinationAt, from);
    segment.acknowledged = view.getUint32(from + 8);
    segment.flags = view.getUint8(from + 13);
    segment.payloadAt = from + headBytes;
    segment.payloadLength = end - segment.payloadAt;
    segment.payloadRecorded = Math.max(0, recordedEnd - segment.payloadAt);
    return true;
  }

  /** What a segment has in whichever packet it lies: who sends to whom, by which ports, and its place. */
  private place(segment: Segment, isVersion6: boolean, sourceAt: number, destinationAt: number, tcpAt: number): void {
    const { view } = this;
    if (segment.view !== view) {
      segment.view = view;
      segment.bytes = this.bytes;
    }
    segment.addressBytes = isVersion6 ? 16 : 4;
    segment.sourceAt = sourceAt;
    segment.destinationAt = destinationAt;
    segment.sourcePort = view.getUint16(tcpAt);
    segment.destinationPort = view.getUint16(tcpAt + 2);
    segment.sequence = view.getUint32(tcpAt + 4);
    segment.at = this.at;
    segment.position = this.position;
  }

  /** Of answers that something could not be reached, the packet that they answer (RFC 792, RFC 4443 §3.1). */
  private icmp(): void {
    const { answer, view } = this;
    const { from, recordedEnd, isVersion6, sourceAt } = this.carried;
    const isAnswer = from + 8 <= recordedEnd && view.getUint8(from) === (isVersion6 ? 1 : 3);
    const inner = from + 8;
    if (!isAnswer || inner + (isVersion6 ? 48 : 28) > recordedEnd) return this.tally.count('of ICMP');
    const headBytes = isVersion6 ? 40 : (view.getUint8(inner) & 0x0f) * 4;
    const protocol = view.getUint8(inner + (isVersion6 ? 6 : 9));
    const tcpAt = inner + headBytes;
    if (protocol !== protocols.tcp || headBytes < 20 || tcpAt + 8 > recordedEnd) return this.tally.count('of ICMP');
    answer.code = view.getUint8(from + 1);
    answer.isVersion6 = isVersion6;
    answer.fromAt = sourceAt;
    answer.bytes = this.bytes;
    const innerSource = inner + (isVersion6 ? 8 : 12);
    this.place(answer.segment, isVersion6, innerSource, innerSource + (isVersion6 ? 16 : 4), tcpAt);
    this.ears.unreachable(answer);
  }
}
