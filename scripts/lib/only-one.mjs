import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { giveUp } from './say.mjs';

/** Refuses to start a second copy on the same data, and says where the first one is. */
export function onlyOne(dataFolder) {
  mkdirSync(dataFolder, { recursive: true, mode: 0o755 });
  const file = join(dataFolder, 'running.json');
  const mine = { pid: process.pid, since: beganAt(process.pid) };
  const write = (url, flag = 'w') => writeFileSync(file, JSON.stringify({ ...mine, url }), { flag });
  try {
    write(null, 'wx');
  } catch (error) {
    if (error.code !== 'EEXIST') throw error;
    const other = leftBy(file);
    if (other)
      giveUp(
        `One is running already, at ${other.url ?? 'an address that it has not told yet'} (process ${other.pid}). Stop that one first with Ctrl-C.`,
      );
    write(null);
  }
  return { tell: write, leave: () => rmSync(file, { force: true }) };
}

/** Who wrote the file, where that process still runs; a file that a power cut left behind, whole or not, names nobody. */
function leftBy(file) {
  try {
    const other = JSON.parse(readFileSync(file, 'utf8'));
    return Number.isInteger(other?.pid) && beganAt(other.pid) === other.since ? other : null;
  } catch {
    return null;
  }
}

/** When a process began: which start of the machine, and how many ticks after it. A number that comes again is another process. */
function beganAt(pid) {
  const boot = readFileSync('/proc/sys/kernel/random/boot_id', 'utf8').trim();
  const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
  return `${boot} ${stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19]}`;
}
