/** So many octets may be held, of all conversations together. */
export interface Room {
  take(octets: number): boolean;
  give(octets: number): void;
}

/** Octets that come in pieces; what is held grows by doubling, within the room that there is. */
export class OctetPile {
  private held = new Uint8Array();
  private filled = 0;

  constructor(
    private readonly room: Room,
    private readonly most: number,
  ) {}

  get length(): number {
    return this.filled;
  }
  /** A view, until more is added. */
  get octets(): Uint8Array {
    return this.held.subarray(0, this.filled);
  }

  /** @returns false where there is no room: then nothing was added */
  add(piece: Uint8Array): boolean {
    const wanted = this.filled + piece.length;
    if (wanted > this.most) return false;
    if (wanted > this.held.length) {
      const size = Math.min(this.most, Math.max(wanted, this.held.length * 2));
      if (!this.room.take(size - this.held.length)) return false;
      const larger = new Uint8Array(size);
      larger.set(this.octets);
      this.held = larger;
    }
    this.held.set(piece, this.filled);
    this.filled = wanted;
    return true;
  }

  /** Keeps what stands behind some octets. */
  cut(octets: number): void {
    this.held.copyWithin(0, octets, this.filled);
    this.filled -= octets;
    if (this.filled === 0) this.clear();
  }

  clear(): void {
    this.room.give(this.held.length);
    this.held = new Uint8Array();
    this.filled = 0;
  }
}
