import { WireFault } from './wire-fault.js';

/** Reads octets one after another, in either order of octets; never beyond their end. */
export class OctetReader {
  private readonly view: DataView;
  private place = 0;

  constructor(
    readonly octets: Uint8Array,
    readonly isLittleEndian = true,
  ) {
    this.view = new DataView(octets.buffer, octets.byteOffset, octets.byteLength);
  }

  get at(): number {
    return this.place;
  }

  get left(): number {
    return this.octets.length - this.place;
  }

  /** Goes on at a multiple of some octets, counted from the start. */
  align(octets: number): void {
    const rest = this.place % octets;
    if (rest !== 0) this.skip(octets - rest);
  }

  skip(octets: number): void {
    this.take(octets);
  }

  u8(): number {
    return this.view.getUint8(this.take(1));
  }
  u16(): number {
    return this.view.getUint16(this.take(2), this.isLittleEndian);
  }
  u32(): number {
    return this.view.getUint32(this.take(4), this.isLittleEndian);
  }
  u64(): bigint {
    return this.view.getBigUint64(this.take(8), this.isLittleEndian);
  }
  i64(): bigint {
    return this.view.getBigInt64(this.take(8), this.isLittleEndian);
  }
  f32(): number {
    return this.view.getFloat32(this.take(4), this.isLittleEndian);
  }
  f64(): number {
    return this.view.getFloat64(this.take(8), this.isLittleEndian);
  }

  /** A view of the next octets, not a copy. */
  bytes(length: number): Uint8Array {
    const from = this.take(length);
    return this.octets.subarray(from, from + length);
  }

  fault(message: string): WireFault {
    return new WireFault(message, this.place);
  }

  private take(length: number): number {
    if (length > this.left)
      throw this.fault(`${length} octets are wanted at ${this.place}, and ${this.left} are there.`);
    const from = this.place;
    this.place += length;
    return from;
  }
}
