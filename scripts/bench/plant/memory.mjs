import { readFileSync } from 'node:fs';

/** The memory of a process that is not shared with others by chance, in megabytes. */
export function megabytesOf(pid) {
  const kilobytes = /^VmRSS:\s+(\d+) kB/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1];
  return Math.round(Number(kilobytes) / 1024);
}
