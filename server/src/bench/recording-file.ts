import { createWriteStream } from 'node:fs';
import type { WriteStream } from 'node:fs';

/** Larger files nobody opens any more. */
export const mostBytes = 200_000_000;
/** What waits for the disk is held in memory up to here. */
const mostWaiting = 16_000_000;

/** Lines of a recording in a file: what can’t be written ends it, with a reason, and what is there stays. */
export class RecordingFile {
  rows = 0;
  bytes = 0;
  private readonly stream: WriteStream;
  private fault: string | null = null;
  private ending: Promise<void> | null = null;

  /** @param failed called once, where nothing more can be written; with why, in words */
  constructor(
    path: string,
    private readonly failed: (says: string) => void,
  ) {
    this.stream = createWriteStream(path, { flags: 'w', mode: 0o600 });
    this.stream.on('error', (error: NodeJS.ErrnoException) => this.fail(wordsOf(error)));
  }

  /** The head counts as no row. */
  begin(header: string): void {
    this.put(header);
  }

  add(line: string): void {
    if (this.fault !== null) return;
    this.rows += 1;
    this.put(line);
    if (this.bytes > mostBytes) this.fail(`It has reached ${Math.round(mostBytes / 1_000_000)} MB.`);
    else if (this.stream.writableLength > mostWaiting) this.fail('The disk is too slow for it.');
  }

  /** Writes what waits, and closes the file: until then it may still come to be. Never throws. */
  end(): Promise<void> {
    return (this.ending ??= this.closeUp());
  }

  private async closeUp(): Promise<void> {
    if (this.stream.closed || this.stream.destroyed) return;
    await new Promise<void>((resolve) => {
      this.stream.once('close', resolve);
      this.stream.end();
    });
  }

  private put(line: string): void {
    const text = `${line}\r\n`;
    this.bytes += Buffer.byteLength(text);
    this.stream.write(text);
  }

  private fail(says: string): void {
    if (this.fault !== null) return;
    this.fault = says;
    this.failed(says);
  }
}

function wordsOf({ code, message }: NodeJS.ErrnoException): string {
  switch (code) {
    case 'ENOSPC':
    case 'EDQUOT':
      return 'The disk is full.';
    case 'EROFS':
    case 'EACCES':
    case 'EPERM':
      return 'The server may not write into its data folder.';
    default:
      return `The file can’t be written: ${message}`;
  }
}
