import type { LogEvent } from './log-event.js';

export interface LogEar {
  event(event: LogEvent): void;
  /** Something was not understood. @param position in the file, in bytes */
  gap(position: number, says: string): void;
}

/** One form of logs: takes the file as it comes. */
export interface LogReader {
  /** Takes the next part; its bytes may be used otherwise afterwards. */
  take(part: Uint8Array): void;
  end(): void;
}
