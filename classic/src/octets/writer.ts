/** Writes octets one after another, the lowest first (the other order is only read). */
export class OctetWriter {
  private octets = new Uint8Array(256);
  private view = new DataView(this.octets.buffer);
  private length = 0;

  get at(): number {
    return this.length;
  }

  align(octets: number): void {
    const rest = this.length % octets;
    if (rest !== 0) this.skip(octets - rest);
  }

  /** Leaves octets at zero. */
  skip(octets: number): void {
    this.room(octets);
  }

  u8(value: number): void {
    const at = this.room(1);
    this.view.setUint8(at, value);
  }
  u16(value: number): void {
    const at = this.room(2);
    this.view.setUint16(at, value, true);
  }
  u32(value: number): void {
    const at = this.room(4);
    this.view.setUint32(at, value, true);
  }
  u64(value: bigint): void {
    const at = this.room(8);
    this.view.setBigUint64(at, value, true);
  }
  f32(value: number): void {
    const at = this.room(4);
    this.view.setFloat32(at, value, true);
  }
  f64(value: number): void {
    const at = this.room(8);
    this.view.setFloat64(at, value, true);
  }
  bytes(value: Uint8Array): void {
    const from = this.room(value.length);
    this.octets.set(value, from);
  }

  /** Puts a number in afterwards, where room was left for it. */
  putU16(at: number, value: number): void {
    this.view.setUint16(at, value, true);
  }
  putU32(at: number, value: number): void {
    this.view.setUint32(at, value, true);
  }

  /** What was written. */
  done(): Uint8Array {
    return this.octets.slice(0, this.length);
  }

  private room(length: number): number {
    const from = this.length;
    this.length += length;
    if (this.length > this.octets.length) {
      const more = new Uint8Array(Math.max(this.length, 2 * this.octets.length));
      more.set(this.octets);
      this.octets = more;
      this.view = new DataView(more.buffer);
    }
    return from;
  }
}
