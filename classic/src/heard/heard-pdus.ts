import { headOctets, pduLength } from '../rpc/pdu.js';
import { WireFault } from '../octets/wire-fault.js';
import { OctetPile } from './octet-pile.js';
import type { Room } from './octet-pile.js';

/** The length of a PDU has 16 bits; what comes with it is held until it is cut off. */
const mostOctets = 1 << 18;

/** Cuts what was heard of one end into PDUs; where some of it is missing, it goes on with what begins like one. */
export class HeardPdus {
  private readonly rest: OctetPile;
  private isLost = false;

  constructor(
    room: Room,
    private readonly hear: (pdu: Uint8Array) => void,
  ) {
    this.rest = new OctetPile(room, mostOctets);
  }

  get isAmid(): boolean {
    return !this.isLost && this.rest.length > 0;
  }

  take(octets: Uint8Array): void {
    if (this.rest.length === 0) {
      const taken = this.pdus(octets);
      if (!this.isLost && taken < octets.length) this.keep(octets.subarray(taken));
      return;
    }
    if (!this.keep(octets)) return;
    const taken = this.pdus(this.rest.octets);
    if (this.isLost) this.rest.clear();
    else if (taken > 0) this.rest.cut(taken);
  }

  miss(): void {
    this.drop();
    this.isLost = true;
  }

  drop(): void {
    this.rest.clear();
  }

  private keep(octets: Uint8Array): boolean {
    const isKept = this.rest.add(octets);
    if (!isKept) this.miss();
    return isKept;
  }

  /** @returns octets of all PDUs that were whole */
  private pdus(all: Uint8Array): number {
    let at = 0;
    for (;;) {
      const length = this.lengthAt(all, at);
      if (length === null || at + length > all.length) return at;
      this.isLost = false;
      this.hear(all.slice(at, at + length));
      at += length;
    }
  }

  /** null: too few octets to tell, or what stands here is no PDU. */
  private lengthAt(all: Uint8Array, at: number): number | null {
    if (all.length - at < headOctets) return null;
    try {
      return pduLength(all.subarray(at, at + headOctets));
    } catch (error) {
      if (!(error instanceof WireFault)) throw error;
      this.isLost = true;
      return null;
    }
  }
}
