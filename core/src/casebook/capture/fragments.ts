/** Time after which a packet whose fragments never came together is given up (RFC 791 §3.2 has 15 s, RFC 8200 §4.5 60 s). */
const longestWaitMicroseconds = 60e6;
const mostPackets = 1024;
const mostBytes = 16 << 20;
const mostPacketBytes = 65_535;
const mostPieces = 8192;
/** What a piece costs beside its bytes. */
const pieceBytes = 320;
const mostTries = 16;

interface Pieces {
  readonly beganAt: number;
  readonly pieces: { readonly from: number; readonly bytes: Uint8Array }[];
  /** Bytes of all pieces, whatever of them lies over one another. */
  held: number;
  /** Bytes of the whole payload; null until the last piece has come. */
  length: number | null;
  /** How often they were joined in vain: pieces lay over one another, and there was a gap. */
  tries: number;
}

/** Puts packets of IP together again that were sent in fragments (RFC 791, RFC 8200). What is held is bounded. */
export class Fragments {
  private readonly packets = new Map<string, Pieces>();
  private held = 0;
  /** Packets that were given up: pieces were missing, or there were too many. */
  givenUp = 0;

  /**
   * @param key who sends to whom, and the packet's identification
   * @param from where the piece lies within the payload
   * @param isLast whether no piece follows behind it
   * @returns the whole payload once all is there
   */
  take(key: string, bytes: Uint8Array, from: number, isLast: boolean, at: number): Uint8Array | null {
    const found = this.packets.get(key);
    if (found && at - found.beganAt > longestWaitMicroseconds) this.giveUp(key, found);
    const packet = this.packets.get(key) ?? this.begin(key, at);
    const end = from + bytes.length;
    const isTooMuch = end > mostPacketBytes || packet.pieces.length >= mostPieces;
    if (isTooMuch || (packet.length !== null && (isLast ? end !== packet.length : end > packet.length))) {
      this.giveUp(key, packet);
      return null;
    }
    if (isLast) packet.length = end;
    packet.pieces.push({ from, bytes: bytes.slice() });
    packet.held += bytes.length;
    this.held += bytes.length + pieceBytes;
    if (packet.length === null || packet.held < packet.length) {
      this.bound();
      return null;
    }
    const whole = joined(packet.pieces, packet.length);
    packet.tries += 1;
    if (whole) this.remove(key, packet);
    else if (packet.tries === mostTries) this.giveUp(key, packet);
    else this.bound();
    return whole;
  }

  /** Packets that still wait for pieces. */
  get waiting(): number {
    return this.packets.size;
  }

  private begin(key: string, at: number): Pieces {
    const packet: Pieces = { beganAt: at, pieces: [], held: 0, length: null, tries: 0 };
    this.packets.set(key, packet);
    return packet;
  }

  private bound(): void {
    while (this.packets.size > mostPackets || this.held > mostBytes) {
      const [oldest] = this.packets;
      if (!oldest) return;
      this.giveUp(...oldest);
    }
  }

  private giveUp(key: string, packet: Pieces): void {
    this.givenUp += 1;
    this.remove(key, packet);
  }

  private remove(key: string, packet: Pieces): void {
    this.packets.delete(key);
    this.held -= packet.held + packet.pieces.length * pieceBytes;
  }
}

/** null: there is a gap. Where pieces lie over one another, what came first stays. */
function joined(pieces: Pieces['pieces'], length: number): Uint8Array | null {
  const whole = new Uint8Array(length);
  const sorted = [...pieces].sort((one, other) => one.from - other.from);
  let end = 0;
  for (const { from, bytes } of sorted) {
    if (from > end) return null;
    end = Math.max(end, from + bytes.length);
  }
  if (end < length) return null;
  for (const { from, bytes } of [...pieces].reverse()) whole.set(bytes, from);
  return whole;
}
