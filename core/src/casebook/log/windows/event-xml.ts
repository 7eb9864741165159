import type { LogEar, LogReader } from '../log-reader.js';
import { decodedText, unitOf, Waiting } from '../text/encoded-bytes.js';
import type { Encoding } from '../text/encoded-bytes.js';
import { readXmlElement, XmlFault } from '../xml-element.js';
import { windowsEventOf } from './windows-event.js';

/** No event is longer. */
const mostEventBytes = 1 << 20;

/**
 * Events of Windows that were exported as XML, one after another, within an element around them or without one. What stands outside of
 * events is not looked at: no document is built, and no entity is taken from it.
 */
export class EventXmlFile implements LogReader {
  private readonly waiting = new Waiting(2 * mostEventBytes);
  private readonly start: Uint8Array;
  private readonly finish: Uint8Array;
  private readonly unit: number;
  /** Of what waits, where it begins in the file. */
  private position: number;
  /** Whether what waits begins with an event, and up to where its end was looked for. */
  private isInside = false;
  private lookedTo = 0;
  /** An event that is too long is passed over up to its end. */
  private isSkipping = false;

  constructor(
    private readonly encoding: Encoding,
    markBytes: number,
    private readonly ear: LogEar,
  ) {
    this.unit = unitOf(encoding).bytes;
    this.position = markBytes;
    this.start = encoded('<Event', encoding);
    this.finish = encoded('</Event>', encoding);
  }

  take(part: Uint8Array): void {
    for (let from = 0; from < part.length; from += mostEventBytes) {
      this.waiting.add(part.subarray(from, from + mostEventBytes));
      this.drop(this.read(this.waiting.bytes));
    }
  }

  end(): void {
    if (this.isInside) this.ear.gap(this.position, 'The file is cut off within an event.');
  }

  /** @returns bytes that are done with */
  private read(bytes: Uint8Array): number {
    let from = 0;
    for (;;) {
      if (!this.isInside) {
        const at = this.findStart(bytes, from);
        if (at < 0) return Math.max(from, aligned(bytes.length - this.start.length - this.unit, this.unit));
        from = at;
        this.isInside = true;
        this.lookedTo = 0;
      }
      const end = indexOf(bytes, this.finish, Math.max(from, from + this.lookedTo), this.unit);
      if (end < 0) {
        if (bytes.length - from > mostEventBytes) {
          if (!this.isSkipping) this.ear.gap(this.position + from, 'An event is longer than 1 MB; it is skipped.');
          this.isSkipping = true;
          from = aligned(bytes.length - this.finish.length, this.unit);
        }
        this.lookedTo = Math.max(0, aligned(bytes.length - from - this.finish.length, this.unit));
        return from;
      }
      const after = end + this.finish.length;
      if (!this.isSkipping) this.event(bytes.subarray(from, after), this.position + from);
      this.isInside = false;
      this.isSkipping = false;
      this.lookedTo = 0;
      from = after;
    }
  }

  /** `<Event` followed by a blank or the end of the tag: not `<EventData`, not `<Events`. */
  private findStart(bytes: Uint8Array, from: number): number {
    for (
      let at = indexOf(bytes, this.start, from, this.unit);
      at >= 0;
      at = indexOf(bytes, this.start, at + 1, this.unit)
    ) {
      const next = at + this.start.length + unitOf(this.encoding).at;
      const letter = bytes[next];
      if (letter === undefined) return -1;
      if (letter === 0x20 || letter === 0x3e || letter === 0x0a || letter === 0x0d || letter === 0x09) return at;
    }
    return -1;
  }

  private event(bytes: Uint8Array, position: number): void {
    try {
      const event = windowsEventOf(readXmlElement(decodedText(bytes, this.encoding)), position);
      if (event) this.ear.event(event);
      else this.ear.gap(position, 'An event says neither which one it is nor of whom.');
    } catch (error) {
      if (!(error instanceof XmlFault)) throw error;
      this.ear.gap(position, `An event can’t be read: ${error.message}`);
    }
  }

  private drop(count: number): void {
    if (count <= 0) return;
    const rest = this.waiting.bytes.slice(count);
    this.waiting.clear();
    this.waiting.add(rest);
    this.position += count;
  }
}

const aligned = (count: number, unit: number): number => Math.max(0, count - (count % unit));

function encoded(text: string, encoding: Encoding): Uint8Array {
  const { bytes, at } = unitOf(encoding);
  const all = new Uint8Array(text.length * bytes);
  for (let index = 0; index < text.length; index += 1) all[index * bytes + at] = text.charCodeAt(index);
  return all;
}

/** Where some bytes stand in others, at a place that fits the unit; negative: nowhere. */
function indexOf(bytes: Uint8Array, wanted: Uint8Array, from: number, unit: number): number {
  const first = wanted[0] === 0 ? (wanted[1] ?? 0) : (wanted[0] ?? 0);
  const lead = wanted[0] === 0 ? 1 : 0;
  for (let at = bytes.indexOf(first, from + lead); at >= 0; at = bytes.indexOf(first, at + 1)) {
    const start = at - lead;
    if (start % unit !== 0 || start + wanted.length > bytes.length) continue;
    let index = 0;
    while (index < wanted.length && bytes[start + index] === wanted[index]) index += 1;
    if (index === wanted.length) return start;
  }
  return -1;
}
