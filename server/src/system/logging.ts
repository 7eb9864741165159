import { pino } from 'pino';
import type { Logger } from 'pino';

/** More than this does not wait to be written: newer lines are dropped while the disk takes none. */
const mostWaitingBytes = 4 * 1024 * 1024;

/** The log on standard output. A disk that takes no more lines loses lines; it never ends the process. */
export function openLog(level: string): Logger {
  const destination = pino.destination({ dest: 1, sync: true, maxLength: mostWaitingBytes });
  destination.on('error', () => undefined);
  return pino({ level: level in pino.levels.values || level === 'silent' ? level : 'info' }, destination);
}
