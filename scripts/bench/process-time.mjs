import { readFileSync } from 'node:fs';

/** Ticks of the processor’s time a second (proc(5), _SC_CLK_TCK). */
const ticksASecond = 100;

/** How long a process has computed so far, in seconds. */
export function cpuSeconds(pid) {
  const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
  const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
  return (Number(fields[11]) + Number(fields[12])) / ticksASecond;
}
