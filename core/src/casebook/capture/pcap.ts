import { CaptureFault, mostRecorded } from './capture-file.js';
import type { PacketEar, RecordReader } from './capture-file.js';

const headBytes = 24;
const recordHeadBytes = 16;
const inMicroseconds = 0xa1b2c3d4;
const inNanoseconds = 0xa1b23c4d;

/** The classic format: a head, then packets, each with its time and two lengths (draft-ietf-opsawg-pcap). */
export class PcapFile implements RecordReader {
  readonly unit = 'a packet';
  needs = headBytes;
  private hasHead = false;
  private isLittleEndian = true;
  private isNano = false;
  private linkType = 0;

  static begins(view: DataView): boolean {
    return [true, false].some((little) => [inMicroseconds, inNanoseconds].includes(view.getUint32(0, little)));
  }

  record(bytes: Uint8Array, view: DataView, from: number, position: number, ear: PacketEar): number {
    if (!this.hasHead) return this.head(view, from);
    const little = this.isLittleEndian;
    if (bytes.length - from < recordHeadBytes) {
      this.needs = recordHeadBytes;
      return 0;
    }
    const recorded = view.getUint32(from + 8, little);
    if (recorded > mostRecorded)
      throw new CaptureFault(`A packet claims ${recorded} recorded bytes, more than any program records.`, position);
    const size = recordHeadBytes + recorded;
    if (bytes.length - from < size) {
      this.needs = size;
      return 0;
    }
    const fraction = view.getUint32(from + 4, little);
    const at = view.getUint32(from, little) * 1e6 + (this.isNano ? Math.floor(fraction / 1000) : fraction);
    const begin = from + recordHeadBytes;
    const length = Math.max(recorded, view.getUint32(from + 12, little));
    ear.packet(bytes, view, begin, begin + recorded, length, this.linkType, at, position);
    return size;
  }

  private head(view: DataView, from: number): number {
    if (view.byteLength - from < headBytes) return 0;
    this.isLittleEndian = [inMicroseconds, inNanoseconds].includes(view.getUint32(from, true));
    this.isNano = view.getUint32(from, this.isLittleEndian) === inNanoseconds;
    const major = view.getUint16(from + 4, this.isLittleEndian);
    if (major !== 2) throw new CaptureFault(`The capture is of version ${major}, where 2 is read.`, 4);
    /* The upper half holds how long a check sum behind each frame is, which its length doesn't count here. */
    this.linkType = view.getUint32(from + 20, this.isLittleEndian) & 0xffff;
    this.hasHead = true;
    return headBytes;
  }
}
