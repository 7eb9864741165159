/**
 * One TCP segment as it lies in the bytes that were recorded. There is one of these for a whole capture, and it is filled anew
 * for each: who wants to keep something of it takes a copy.
 */
export class Segment {
  view: DataView = new DataView(new ArrayBuffer(0));
  bytes: Uint8Array = new Uint8Array();
  /** Bytes of an address: 4 or 16. */
  addressBytes = 4;
  sourceAt = 0;
  destinationAt = 0;
  sourcePort = 0;
  destinationPort = 0;
  sequence = 0;
  acknowledged = 0;
  /** {@link tcpFlags} */
  flags = 0;
  payloadAt = 0;
  /** Bytes of payload on the wire. */
  payloadLength = 0;
  /** Of these so many were recorded. */
  payloadRecorded = 0;
  /** Microseconds since 1970. */
  at = 0;
  /** Where in the file the packet begins, in bytes. */
  position = 0;
}

/** Control bits of TCP (RFC 9293 §3.1). */
export const tcpFlags = { fin: 0x01, syn: 0x02, reset: 0x04, acknowledge: 0x10 } as const;

/** A packet that a machine on the way has answered: it didn't let it through, or couldn't. */
export class Unreachable {
  readonly segment = new Segment();
  /** Of ICMP or ICMPv6. */
  code = 0;
  isVersion6 = false;
  /** Who answered, in bytes of its address. */
  fromAt = 0;
  /** The answer's own packet, in which `fromAt` lies. */
  bytes: Uint8Array = new Uint8Array();
}

/**
 * Counts packets that are passed over, by what they are (“of UDP”): nothing is dropped silently. Of more kinds than can be told apart
 * the rest is counted together.
 */
export class Tally {
  private readonly counted = new Map<string, number>();

  count(what: string): void {
    const key = this.counted.has(what) || this.counted.size < mostKinds ? what : 'of other kinds';
    this.counted.set(key, (this.counted.get(key) ?? 0) + 1);
  }

  get counts(): ReadonlyMap<string, number> {
    return this.counted;
  }
}
const mostKinds = 64;
