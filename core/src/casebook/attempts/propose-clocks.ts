import type { Attempt } from './attempt.js';

/** A clock that stands otherwise than another one’s, as attempts show that both files tell of. */
export interface ClockProposal {
  readonly fileId: string;
  /** The file whose clock it is compared with. */
  readonly against: string;
  /** By which its clock is ahead, beyond what it was set right by already; negative: behind. */
  readonly aheadMs: number;
  /** Attempts that show it. */
  readonly matches: number;
}

/** Fewer could be chance: ports are used again. */
const leastMatches = 2;
/** Clocks that stand closer are near enough to know one attempt from another. */
const leastMs = 2000;
/** Nothing further apart is looked at: a day, and the widest that two time zones lie apart. */
const mostMs = 50 * 3_600_000;
const nearMs = 1500;

/**
 * Finds files whose clocks differ, by attempts from the same port to the same port that two of them tell of.
 * @param attempts as each file tells them, not joined
 * @param order files, those whose clocks are trusted most first; others are compared with them
 */
export function proposeClocks(attempts: readonly Attempt[], order: readonly string[]): readonly ClockProposal[] {
  const firsts = firstsOf(attempts);
  const rank = new Map(order.map((fileId, index) => [fileId, index]));
  const differences = new Map<string, { fileId: string; against: string; ms: number[] }>();
  for (const byFile of firsts.values()) {
    const files = [...byFile.keys()].filter((fileId) => rank.has(fileId));
    files.sort((one, other) => (rank.get(one) ?? 0) - (rank.get(other) ?? 0));
    const [against, ...others] = files;
    for (const fileId of others) {
      if (against === undefined) continue;
      const ms = (byFile.get(fileId) ?? 0) - (byFile.get(against) ?? 0);
      if (Math.abs(ms) > mostMs) continue;
      const key = `${fileId} ${against}`;
      const known = differences.get(key);
      if (known) known.ms.push(ms);
      else differences.set(key, { fileId, against, ms: [ms] });
    }
  }
  const all = [...differences.values()].flatMap(({ fileId, against, ms }) => {
    const agreed = agreement(ms);
    return agreed && Math.abs(agreed.ms) >= leastMs
      ? [{ fileId, against, aheadMs: agreed.ms, matches: agreed.count }]
      : [];
  });
  return bestOfEach(all);
}

/** When each file first tells of an attempt, by its ends and ports. */
function firstsOf(attempts: readonly Attempt[]): ReadonlyMap<string, ReadonlyMap<string, number>> {
  const firsts = new Map<string, Map<string, number>>();
  for (const { from, to, start, evidence } of attempts) {
    const [only] = evidence;
    if (!only || from.address === null || from.port === null || to.address === null || to.port === null) continue;
    const key = `${from.address} ${from.port} ${to.address} ${to.port}`;
    const byFile = firsts.get(key) ?? new Map<string, number>();
    firsts.set(key, byFile);
    byFile.set(only.fileId, Math.min(start, byFile.get(only.fileId) ?? Number.POSITIVE_INFINITY));
  }
  return firsts;
}

/** The difference that most attempts show; null: they don’t agree, or are too few. */
function agreement(all: readonly number[]): { readonly ms: number; readonly count: number } | null {
  const sorted = [...all].sort((one, other) => one - other);
  const middle = sorted[Math.floor(sorted.length / 2)];
  if (middle === undefined) return null;
  const near = sorted.filter((ms) => Math.abs(ms - middle) <= nearMs);
  if (near.length < leastMatches || near.length * 2 <= sorted.length) return null;
  return { ms: Math.round(near.reduce((sum, ms) => sum + ms, 0) / near.length), count: near.length };
}

/** Of several for one file, the one that most attempts show. */
function bestOfEach(all: readonly ClockProposal[]): readonly ClockProposal[] {
  const best = new Map<string, ClockProposal>();
  for (const proposal of all)
    if ((best.get(proposal.fileId)?.matches ?? 0) < proposal.matches) best.set(proposal.fileId, proposal);
  return [...best.values()];
}
