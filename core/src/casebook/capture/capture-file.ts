import { PcapFile } from './pcap.js';
import { PcapngFile } from './pcapng.js';

/** Hears each packet of a capture. The bytes are only there during the call. */
export interface PacketEar {
  /**
   * @param view of the same bytes
   * @param from where the packet begins in the bytes
   * @param to where what was recorded of it ends
   * @param length its bytes on the wire, which may be more than were recorded
   * @param linkType how its first header is to be read (link-layer header types of the capture formats)
   * @param at microseconds since 1970
   * @param position where it begins in the file
   */
  packet(
    bytes: Uint8Array,
    view: DataView,
    from: number,
    to: number,
    length: number,
    linkType: number,
    at: number,
    position: number,
  ): void;
}

/** A file that can't be read on from a place. What was read before stands. */
export class CaptureFault extends Error {
  override readonly name = 'CaptureFault';
  /** @param position bytes from the start of the file */
  constructor(
    says: string,
    readonly position: number,
  ) {
    super(says);
  }
}

/** One of the file formats: takes as many whole records as there are. */
export interface RecordReader {
  /**
   * Reads one record.
   * @returns bytes that it has; 0: it isn't whole, and needs at least {@link needs}
   * @throws {CaptureFault}
   */
  record(bytes: Uint8Array, view: DataView, from: number, position: number, ear: PacketEar): number;
  /** Bytes that the record which was not whole needs, as far as it is known. */
  readonly needs: number;
  /** What a record that isn't whole at the end of the file is called. */
  readonly unit: string;
}

/** No packet that was recorded is longer; programs that record stop at 256 kB. */
export const mostRecorded = 1 << 20;
/** Bytes of the largest record of all. */
export const mostRecord = 16 << 20;

/**
 * Reads a capture (pcap, or pcapng) as it comes, part by part; of a record that isn't whole the beginning waits for the next part, and
 * never more than {@link mostRecord} bytes.
 */
export class CaptureFile {
  private reader: RecordReader | null = null;
  private rest: Uint8Array = new Uint8Array(1 << 16);
  private held = 0;
  private position = 0;
  private fault: CaptureFault | null = null;

  constructor(private readonly ear: PacketEar) {}

  /** Takes the next part of the file. After a fault the rest is passed over. */
  take(part: Uint8Array): void {
    if (this.fault) return;
    try {
      this.read(part);
    } catch (error) {
      if (!(error instanceof CaptureFault)) throw error;
      this.fault = error;
    }
  }

  /** @returns null where the whole file was read; else where reading ended, and why */
  end(): CaptureFault | null {
    if (this.fault) return this.fault;
    if (!this.reader && this.position + this.held === 0) return new CaptureFault('The file is empty.', 0);
    if (!this.reader) return new CaptureFault('This is no capture: it begins like neither pcap nor pcapng.', 0);
    if (this.held === 0) return null;
    return new CaptureFault(`The file is cut off within ${this.reader.unit}.`, this.position);
  }

  /** Whether it is a capture at all. */
  get isCapture(): boolean {
    return this.reader !== null;
  }

  private read(part: Uint8Array): void {
    let from = 0;
    /* What waits is filled up until its record is whole, and no further: the rest is read where it lies. */
    while (this.held > 0 && from < part.length) {
      const wanted = Math.max(this.reader?.needs ?? 4, this.held + 1) - this.held;
      const count = Math.min(wanted, part.length - from);
      this.hold(part.subarray(from, from + count));
      from += count;
      const taken = this.records(this.rest.subarray(0, this.held));
      this.rest.copyWithin(0, taken, this.held);
      this.held -= taken;
    }
    if (from >= part.length) return;
    const left = from === 0 ? part : part.subarray(from);
    const taken = this.records(left);
    this.hold(left.subarray(taken));
  }

  private hold(bytes: Uint8Array): void {
    const wanted = this.held + bytes.length;
    if (wanted > this.rest.length) {
      const larger = new Uint8Array(Math.max(wanted, this.rest.length * 2));
      larger.set(this.rest.subarray(0, this.held));
      this.rest = larger;
    }
    this.rest.set(bytes, this.held);
    this.held = wanted;
  }

  /** @returns bytes of all records that were whole */
  private records(bytes: Uint8Array): number {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    this.reader ??= readerOf(view);
    if (!this.reader) return 0;
    let at = 0;
    for (;;) {
      const count = this.reader.record(bytes, view, at, this.position, this.ear);
      if (count === 0) return at;
      at += count;
      this.position += count;
    }
  }
}

/** Whether a file begins as captures do. @param head its first bytes */
export const beginsAsCapture = (head: Uint8Array): boolean => {
  const view = new DataView(head.buffer, head.byteOffset, head.byteLength);
  return head.length >= 4 && (PcapngFile.begins(view) || PcapFile.begins(view));
};

/** Which format begins so; null: too few bytes to tell. */
function readerOf(view: DataView): RecordReader | null {
  if (view.byteLength < 4) return null;
  const reader = PcapngFile.begins(view) ? new PcapngFile() : PcapFile.begins(view) ? new PcapFile() : null;
  if (!reader) throw new CaptureFault('This is no capture: it begins like neither pcap nor pcapng.', 0);
  return reader;
}
