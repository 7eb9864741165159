import { WireFault } from '../octets/wire-fault.js';
import { pduLength } from './pdu.js';

/** Cuts what comes over a connection into PDUs. What is held is at most one PDU and what came with it. */
export class Framing {
  private parts: Uint8Array[] = [];
  private held = 0;

  /** @param longest octets of the longest PDU that is taken */
  constructor(private readonly longest: number) {}

  /** Whether a PDU has begun and is not whole. */
  get isHalf(): boolean {
    return this.held > 0;
  }

  /** The PDUs that are whole now. @throws {WireFault} where what came is none, or too long */
  take(chunk: Uint8Array): Uint8Array[] {
    this.parts.push(plain(chunk));
    this.held += chunk.length;
    const whole: Uint8Array[] = [];
    for (;;) {
      const head = this.front();
      const length = head && pduLength(head);
      if (length === null) return whole;
      if (length > this.longest)
        throw new WireFault(`A PDU of ${length} octets, where ${this.longest} were agreed on.`, 8);
      if (length > this.held) return whole;
      const all = this.joined();
      whole.push(all.slice(0, length));
      this.held -= length;
      this.parts = this.held > 0 ? [all.subarray(length)] : [];
    }
  }

  /** The first octets, as many as a header has, or as there are. */
  private front(): Uint8Array | null {
    const [first] = this.parts;
    if (!first) return null;
    return first.length >= 16 || this.parts.length === 1 ? first : this.joined();
  }

  private joined(): Uint8Array {
    const all = this.parts.length === 1 && this.parts[0] ? this.parts[0] : plain(Buffer.concat(this.parts));
    this.parts = [all];
    return all;
  }
}

/** The same octets without what Node adds: a slice of them is a copy, as everybody below believes. */
const plain = (octets: Uint8Array): Uint8Array => new Uint8Array(octets.buffer, octets.byteOffset, octets.length);
