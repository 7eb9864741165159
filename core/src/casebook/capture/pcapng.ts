import { CaptureFault, mostRecord, mostRecorded } from './capture-file.js';
import type { PacketEar, RecordReader } from './capture-file.js';

const blocks = { section: 0x0a0d0d0a, interface: 1, oldPacket: 2, simplePacket: 3, enhancedPacket: 6 } as const;
const byteOrder = 0x1a2b3c4d;
const options = { end: 0, resolution: 9, offset: 14 } as const;
const mostInterfaces = 4096;
/** The end of the year 9999: later times have no usual form. */
const latestMicroseconds = 253_402_300_799_000_000;

interface Interface {
  readonly linkType: number;
  readonly snapLength: number;
  /** Microseconds from the upper and the lower half of a time. */
  readonly time: (high: number, low: number) => number;
}

/**
 * The newer format (draft-ietf-opsawg-pcapng): sections, each with its order of bytes and its interfaces; blocks that say how long
 * they are. Blocks and options that aren't needed are skipped.
 */
export class PcapngFile implements RecordReader {
  readonly unit = 'a block';
  needs = 12;
  private isLittleEndian = true;
  private interfaces: Interface[] = [];
  private lastAt = 0;

  static begins(view: DataView): boolean {
    return view.getUint32(0, true) === blocks.section;
  }

  record(bytes: Uint8Array, view: DataView, from: number, position: number, ear: PacketEar): number {
    if (bytes.length - from < 12) {
      this.needs = 12;
      return 0;
    }
    const isSection = view.getUint32(from, true) === blocks.section;
    if (isSection) this.order(view, from, position);
    const little = this.isLittleEndian;
    const size = view.getUint32(from + 4, little);
    if (size < 12 || size % 4 !== 0) throw new CaptureFault(`A block claims ${size} bytes.`, position);
    if (size > mostRecord) throw new CaptureFault(`A block claims ${size} bytes, more than are read.`, position);
    if (bytes.length - from < size) {
      this.needs = size;
      return 0;
    }
    if (view.getUint32(from + size - 4, little) !== size)
      throw new CaptureFault('A block ends with another length than it begins with.', position);
    const body = from + 8;
    const end = from + size - 4;
    switch (view.getUint32(from, little)) {
      case blocks.section:
        this.interfaces = [];
        break;
      case blocks.interface:
        this.addInterface(view, body, end, position);
        break;
      case blocks.enhancedPacket:
        this.packet(bytes, view, body, end, 20, view.getUint32(body, little), position, ear);
        break;
      case blocks.oldPacket:
        this.packet(bytes, view, body, end, 20, end - body < 20 ? 0 : view.getUint16(body, little), position, ear);
        break;
      case blocks.simplePacket:
        this.simple(bytes, view, body, end, position, ear);
        break;
    }
    return size;
  }

  private order(view: DataView, from: number, position: number): void {
    const isLittle = view.getUint32(from + 8, true) === byteOrder;
    if (!isLittle && view.getUint32(from + 8, false) !== byteOrder)
      throw new CaptureFault('A section says nothing of its order of bytes.', position);
    this.isLittleEndian = isLittle;
  }

  private addInterface(view: DataView, body: number, end: number, position: number): void {
    if (end - body < 8) throw new CaptureFault('The description of an interface is too short.', position);
    if (this.interfaces.length >= mostInterfaces)
      throw new CaptureFault(`A section has more than ${mostInterfaces} interfaces.`, position);
    const little = this.isLittleEndian;
    const linkType = view.getUint16(body, little);
    const snapLength = view.getUint32(body + 4, little);
    let resolution = 6;
    let offset = 0;
    for (let at = body + 8; at + 4 <= end;) {
      const [code, length] = [view.getUint16(at, little), view.getUint16(at + 2, little)];
      if (code === options.end || at + 4 + length > end) break;
      if (code === options.resolution && length === 1) resolution = view.getUint8(at + 4);
      if (code === options.offset && length === 8) offset = Number(view.getBigInt64(at + 4, little));
      at += 4 + ((length + 3) & ~3);
    }
    this.interfaces.push({ linkType, snapLength, time: timeBy(resolution, offset) });
  }

  private packet(
    bytes: Uint8Array,
    view: DataView,
    body: number,
    end: number,
    headBytes: number,
    interfaceNumber: number,
    position: number,
    ear: PacketEar,
  ): void {
    if (end - body < headBytes) throw new CaptureFault('The block of a packet is too short.', position);
    const from = this.interfaces[interfaceNumber];
    if (!from)
      throw new CaptureFault(`A packet came by interface ${interfaceNumber}, which is not described.`, position);
    const little = this.isLittleEndian;
    const recorded = view.getUint32(body + 12, little);
    const begin = body + headBytes;
    if (recorded > end - begin || recorded > mostRecorded)
      throw new CaptureFault(
        `A packet claims ${recorded} recorded bytes, where its block has ${end - begin}.`,
        position,
      );
    const at = from.time(view.getUint32(body + 4, little), view.getUint32(body + 8, little));
    this.lastAt = Math.min(Math.max(at, 0), latestMicroseconds);
    const length = Math.max(recorded, view.getUint32(body + 16, little));
    ear.packet(bytes, view, begin, begin + recorded, length, from.linkType, this.lastAt, position);
  }

  /** Without a time: the last one that was said holds. */
  private simple(bytes: Uint8Array, view: DataView, body: number, end: number, position: number, ear: PacketEar): void {
    const [first] = this.interfaces;
    if (!first || end - body < 4)
      throw new CaptureFault('A packet came by an interface that is not described.', position);
    const length = view.getUint32(body, this.isLittleEndian);
    const most = first.snapLength === 0 ? length : Math.min(length, first.snapLength);
    const begin = body + 4;
    const recorded = Math.min(most, end - begin, mostRecorded);
    ear.packet(bytes, view, begin, begin + recorded, length, first.linkType, this.lastAt, position);
  }
}

/** Units a second are a power of ten, or with the highest bit of two (option `if_tsresol`); the offset is in seconds. */
function timeBy(resolution: number, offsetSeconds: number): (high: number, low: number) => number {
  const exponent = resolution & 0x7f;
  const offset = offsetSeconds * 1e6;
  if ((resolution & 0x80) === 0 && exponent === 6) return (high, low) => high * 4294967296 + low + offset;
  if (resolution === 9) return (high, low) => high * 4294967 + Math.floor((high * 296 + low) / 1000) + offset;
  const perSecond = (resolution & 0x80) === 0 ? 10n ** BigInt(exponent) : 1n << BigInt(exponent);
  return (high, low) => {
    const units = (BigInt(high) << 32n) | BigInt(low);
    return Number((units * 1_000_000n) / perSecond) + offset;
  };
}
