import type { LogEvent } from '../log-event.js';
import type { LogEar, LogReader } from '../log-reader.js';
import type { Encoding } from './encoded-bytes.js';
import { kernelFirewallEvent } from './kernel-firewall.js';
import { Lines } from './lines.js';
import { CsvLines, isCsvHead, jsonLine } from './record-lines.js';
import type { RuleReader } from './reading-rule.js';
import { timeAt } from './times.js';
import type { LogClock } from './times.js';
import { WindowsFirewallLog } from './windows-firewall.js';

/** Lines of text, of whichever form each is; a table says in its first line what its columns are. */
export class TextLog implements LogReader {
  private readonly lines: Lines;
  private readonly windows = new WindowsFirewallLog();
  private table: CsvLines | null = null;
  private isFirst = true;

  /** @param rule reads what has no form that is known; null: there is none */
  constructor(
    encoding: Encoding,
    markBytes: number,
    private readonly clock: LogClock,
    private readonly rule: RuleReader | null,
    private readonly ear: LogEar,
  ) {
    this.lines = new Lines(encoding, markBytes, {
      line: (text, position) => this.line(text, position),
      tooLong: (position, bytes) =>
        ear.gap(position, `A line is longer than ${bytes / 1024} kB; the rest of it is skipped.`),
    });
  }

  take(part: Uint8Array): void {
    this.lines.take(part);
  }
  end(): void {
    this.lines.end();
  }

  private line(text: string, position: number): void {
    if (text.trim() === '') return;
    const isFirst = this.isFirst;
    this.isFirst = false;
    if (isFirst && !this.rule && isCsvHead(text)) {
      this.table = new CsvLines(text);
      return;
    }
    if (
      text.startsWith('#') &&
      (this.windows.hasColumns || /^#(?:Version|Fields|Software|Time Format|Date):/i.test(text))
    ) {
      this.windows.event(text, position, this.clock);
      return;
    }
    const event = this.eventOf(text, position);
    if (event) this.ear.event(event);
    else
      this.ear.gap(
        position,
        this.table ? 'A line has more columns than the table.' : 'The line has no form that is known.',
      );
  }

  private eventOf(text: string, position: number): LogEvent | null {
    if (this.table) return this.table.event(text, position, this.clock);
    if (this.windows.hasColumns) return this.windows.event(text, position, this.clock);
    const known = text.startsWith('{')
      ? jsonLine(text, position, this.clock)
      : kernelFirewallEvent(text, position, this.clock);
    if (known) return known;
    const data = this.rule?.read(text, this.clock) ?? null;
    if (data) return { kind: 'text', position, time: data['time'] ?? null, text, data };
    if (this.rule) return null;
    const found = timeAt(text, this.clock);
    return { kind: 'text', position, time: found?.time ?? null, text: text.slice(found?.length ?? 0).trim(), data: {} };
  }
}
