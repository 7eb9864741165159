import type { LogEar, LogReader } from '../log-reader.js';
import { windowsEventOf } from '../windows/windows-event.js';
import { BinaryXml, BinaryXmlFault } from './binary-xml.js';
import { crc32 } from './crc32.js';

const fileHeadBytes = 4096;
const chunkBytes = 65_536;
const recordsFrom = 512;
const recordHeadBytes = 24;
const recordMagic = 0x00002a2a;
const [fileMagic, chunkMagic] = ['ElfFile\0', 'ElfChnk\0'];

/** Whether a file is an event log of Windows in its binary form. @param head at least eight bytes */
export const isEvtx = (head: Uint8Array): boolean => begins(head, 0, fileMagic);

function begins(bytes: Uint8Array, at: number, text: string): boolean {
  for (let index = 0; index < text.length; index += 1) if (bytes[at + index] !== text.charCodeAt(index)) return false;
  return true;
}

/**
 * Reads an event log of Windows in its binary form: a head, then chunks of 64 kB, each with records, names and templates of its own
 * and with check sums. A chunk whose check sums are wrong is skipped and told, as is a record that can’t be read.
 */
export class EvtxFile implements LogReader {
  private readonly block = new Uint8Array(chunkBytes);
  private filled = 0;
  private wanted = fileHeadBytes;
  private position = 0;

  constructor(private readonly ear: LogEar) {}

  take(part: Uint8Array): void {
    let at = 0;
    while (at < part.length) {
      const count = Math.min(this.wanted - this.filled, part.length - at);
      this.block.set(part.subarray(at, at + count), this.filled);
      this.filled += count;
      at += count;
      if (this.filled === this.wanted) this.next();
    }
  }

  end(): void {
    if (this.filled > 0) this.ear.gap(this.position, 'The file is cut off within a chunk, which is skipped.');
  }

  private next(): void {
    if (this.wanted === chunkBytes) this.chunk();
    this.position += this.wanted;
    this.wanted = chunkBytes;
    this.filled = 0;
  }

  private chunk(): void {
    const { block } = this;
    /* Chunks that were never used are zeros. */
    if (!begins(block, 0, chunkMagic)) {
      if (block.some((byte) => byte !== 0))
        this.ear.gap(this.position, 'This is no chunk of an event log; it is skipped.');
      return;
    }
    const view = new DataView(block.buffer);
    const freeFrom = view.getUint32(48, true);
    if (freeFrom < recordsFrom || freeFrom > chunkBytes)
      return this.ear.gap(this.position, `A chunk claims to be filled up to byte ${freeFrom}; it is skipped.`);
    const isHeadRight = crc32(block.subarray(0, 120), block.subarray(128, recordsFrom)) === view.getUint32(124, true);
    const areRecordsRight = crc32(block.subarray(recordsFrom, freeFrom)) === view.getUint32(52, true);
    if (!isHeadRight || !areRecordsRight)
      return this.ear.gap(
        this.position,
        `The check sum of a chunk’s ${isHeadRight ? 'records' : 'head'} is wrong; it is skipped.`,
      );
    this.records(view, freeFrom);
  }

  private records(view: DataView, end: number): void {
    const xml = new BinaryXml(this.block);
    for (let at = recordsFrom; at + recordHeadBytes <= end;) {
      const size = view.getUint32(at + 4, true);
      if (view.getUint32(at, true) !== recordMagic || size < recordHeadBytes + 4 || at + size > end)
        return this.ear.gap(this.position + at, 'A record is broken; the rest of its chunk is skipped.');
      this.record(xml, at);
      at += size;
    }
  }

  private record(xml: BinaryXml, at: number): void {
    const position = this.position + at;
    try {
      const event = windowsEventOf(xml.read(at + recordHeadBytes), position);
      if (event) this.ear.event(event);
      else this.ear.gap(position, 'A record is no event.');
    } catch (error) {
      if (!(error instanceof BinaryXmlFault)) throw error;
      this.ear.gap(position, `A record can’t be read: ${error.message}`);
    }
  }
}
