import { addTo } from './add-to.js';
import type { Attempt } from './attempt.js';

const scanPorts = 10;
const scanMs = 5 * 60_000;

/** Attempts that belong to a scan: ten ports or machines from one address within five minutes, most of them in vain. */
export function scansIn(attempts: readonly Attempt[]): ReadonlyMap<Attempt, string> {
  const bySource = new Map<string, Attempt[]>();
  for (const attempt of attempts) {
    const { address } = attempt.from;
    if (address === null || attempt.to.port === null) continue;
    addTo(bySource, address, attempt);
  }
  const scans = new Map<Attempt, string>();
  for (const [address, all] of bySource)
    for (const [from, to] of scannedSpans(all)) for (const attempt of all.slice(from, to)) scans.set(attempt, address);
  return scans;
}

/** Of the attempts of one address, those that belong to scans: from which to which, the latter not among them. */
function scannedSpans(all: readonly Attempt[]): readonly (readonly [from: number, to: number])[] {
  const spans: [number, number][] = [];
  const targets = new Map<string, number>();
  const targetOf = ({ to }: Attempt): string => `${to.address} ${to.port}`;
  const isInVain = ({ ended, kind }: Attempt): number => (ended.hasFailed || kind === null ? 1 : 0);
  let from = 0;
  let inVain = 0;
  all.forEach((attempt, index) => {
    targets.set(targetOf(attempt), (targets.get(targetOf(attempt)) ?? 0) + 1);
    inVain += isInVain(attempt);
    for (let oldest = all[from]; oldest && attempt.start - oldest.start > scanMs; oldest = all[from]) {
      const left = (targets.get(targetOf(oldest)) ?? 1) - 1;
      if (left === 0) targets.delete(targetOf(oldest));
      else targets.set(targetOf(oldest), left);
      inVain -= isInVain(oldest);
      from += 1;
    }
    if (targets.size < scanPorts || inVain * 2 <= index + 1 - from) return;
    const last = spans.at(-1);
    if (last && last[1] >= from) last[1] = index + 1;
    else spans.push([from, index + 1]);
  });
  return spans;
}
