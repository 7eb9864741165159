import { EvtxFile, isEvtx } from './evtx/evtx-file.js';
import type { LogEvent, LogGap } from './log-event.js';
import type { LogEar, LogReader } from './log-reader.js';
import { decodedText, encodingOf } from './text/encoded-bytes.js';
import type { RuleReader } from './text/reading-rule.js';
import { TextLog } from './text/text-log.js';
import type { LogClock } from './text/times.js';
import { EventXmlFile } from './windows/event-xml.js';

/** What a whole log came to. */
export interface LogRead {
  readonly events: number;
  /** Places that were not understood; the first {@link mostGaps} stand in `gaps`. */
  readonly notUnderstood: number;
  readonly gaps: readonly LogGap[];
}
const mostGaps = 100;
/** By so many bytes the form of a file is told. */
const headBytes = 1024;

/**
 * Reads a log as it comes, whatever its form: event logs of Windows (binary, or exported as XML), logs of firewalls, JSON lines, CSV, and
 * lines of text. Memory is bounded whatever the file says.
 */
export class LogReading {
  private readonly head = new Uint8Array(headBytes);
  private filled = 0;
  private reader: LogReader | null = null;
  private events = 0;
  private notUnderstood = 0;
  private readonly gaps: LogGap[] = [];
  private readonly ear: LogEar;

  /** @param rule reads lines that have no form that is known */
  constructor(
    private readonly clock: LogClock,
    private readonly rule: RuleReader | null,
    tell: (event: LogEvent) => void,
  ) {
    this.ear = {
      event: (event) => {
        this.events += 1;
        tell(event);
      },
      gap: (position, says) => {
        this.notUnderstood += 1;
        if (this.gaps.length < mostGaps) this.gaps.push({ position, says });
      },
    };
  }

  /** The next part; its bytes may be used otherwise afterwards. */
  take(part: Uint8Array): void {
    if (this.reader) return this.reader.take(part);
    const count = Math.min(headBytes - this.filled, part.length);
    this.head.set(part.subarray(0, count), this.filled);
    this.filled += count;
    if (this.filled < headBytes) return;
    this.begin();
    if (count < part.length) this.take(part.subarray(count));
  }

  end(): LogRead {
    if (!this.reader) this.begin();
    this.reader?.end();
    return { events: this.events, notUnderstood: this.notUnderstood, gaps: this.gaps };
  }

  private begin(): void {
    const head = this.head.subarray(0, this.filled);
    const { reader, markBytes } = this.readerOf(head);
    this.reader = reader;
    reader.take(head.subarray(markBytes));
  }

  private readerOf(head: Uint8Array): { readonly reader: LogReader; readonly markBytes: number } {
    if (isEvtx(head)) return { reader: new EvtxFile(this.ear), markBytes: 0 };
    const binary = binaryNamed(head);
    if (binary !== null) {
      this.ear.gap(0, binary);
      return { reader: { take: () => undefined, end: () => undefined }, markBytes: 0 };
    }
    const { encoding, markBytes } = encodingOf(head);
    const text = decodedText(head.subarray(markBytes), encoding).trimStart();
    const isXml = /^<(?:\?xml|!DOCTYPE|!--|Events?[\s>])/i.test(text);
    const reader = isXml
      ? new EventXmlFile(encoding, markBytes, this.ear)
      : new TextLog(encoding, markBytes, this.clock, this.rule, this.ear);
    return { reader, markBytes };
  }
}

/** Archives by their first bytes. */
const archives: readonly (readonly number[])[] = [
  [0x50, 0x4b, 0x03, 0x04],
  [0x1f, 0x8b],
  [0x37, 0x7a, 0xbc, 0xaf],
  [0x42, 0x5a, 0x68],
  [0xfd, 0x37, 0x7a, 0x58],
];

/** Why a file is no text; null: it may be one. */
function binaryNamed(head: Uint8Array): string | null {
  if (archives.some((magic) => magic.every((byte, index) => head[index] === byte)))
    return 'This is an archive: unpack it, and bring what is in it.';
  const { encoding } = encodingOf(head);
  return encoding === 'utf-8' && head.includes(0) ? 'This is no log: it holds bytes that no text has.' : null;
}
