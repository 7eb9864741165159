import type { Attempt, AttemptPlace } from './attempt.js';

/** Two clocks are believed to differ by no more than this, once they were set right. */
export const usualDoubtMs = 2000;

/**
 * Attempts that several sources tell of, each only once: same ends, ports that don’t speak against it, and times within the clocks’
 * doubt. Each keeps the evidence and the facts of all its sources; the one that tells most says how it ended.
 * @param attempts in any order
 * @returns in the order of their starts
 */
export function joinAttempts(attempts: readonly Attempt[], doubtMs = usualDoubtMs): readonly Attempt[] {
  const sorted = [...attempts].sort((one, other) => one.start - other.start);
  const joined: Attempt[] = [];
  /** By both ends and the port that is asked for: those that can still be met. */
  const open = new Map<string, number[]>();
  for (const attempt of sorted) {
    const key = `${attempt.from.address ?? ''} ${attempt.to.address ?? ''} ${attempt.to.port ?? ''}`;
    const near = (open.get(key) ?? []).filter((index) => (joined[index]?.end ?? 0) + doubtMs >= attempt.start);
    const match = near.find((index) => isSame(joined[index], attempt));
    if (match === undefined) open.set(key, [...near, joined.push(attempt) - 1]);
    else {
      open.set(key, near);
      joined[match] = together(joined[match] as Attempt, attempt);
    }
  }
  return joined;
}

function isSame(one: Attempt | undefined, other: Attempt): boolean {
  if (!one || one.from.address === null || one.to.address === null || other.to.port === null) return false;
  const files = new Set(one.evidence.map(({ fileId }) => fileId));
  if (other.evidence.some(({ fileId }) => files.has(fileId))) return isRepeated(one, other);
  return one.from.port === null || other.from.port === null || one.from.port === other.from.port;
}

/** One source tells the same attempt several times where a packet was sent again: from the very same port. */
const isRepeated = (one: Attempt, other: Attempt): boolean =>
  one.from.port !== null && one.from.port === other.from.port && one.facts.length <= 1 && other.facts.length <= 1;

function together(one: Attempt, other: Attempt): Attempt {
  const [more, less] = other.facts.length > one.facts.length ? [other, one] : [one, other];
  return {
    kind: more.kind ?? less.kind,
    from: place(more.from, less.from),
    to: place(more.to, less.to),
    as: more.as ?? less.as,
    start: Math.min(one.start, other.start),
    end: Math.max(one.end, other.end),
    ended: sayer(more, less).ended,
    facts: more.facts,
    remarks: [...new Set([...more.remarks, ...less.remarks])],
    evidence: [...one.evidence, ...other.evidence],
  };
}

/** Who says that it failed knows more than who saw nothing wrong; who names a rule more than who saw no answer. */
const sayer = (more: Attempt, less: Attempt): Attempt =>
  less.ended.hasFailed &&
  (!more.ended.hasFailed || (more.facts.length === less.facts.length && more.ended.says.startsWith('Nothing')))
    ? less
    : more;

const place = (more: AttemptPlace, less: AttemptPlace): AttemptPlace => ({
  address: more.address ?? less.address,
  name: more.name ?? less.name,
  port: more.port ?? less.port,
});
