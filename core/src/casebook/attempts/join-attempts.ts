import type { Attempt, AttemptPlace } from './attempt.js';

/** Two clocks are believed to differ by no more than this, once they were set right. */
const usualDoubtMs = 2000;

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

/** What one source tells as an attempt of its own, and what is a part of another one. */
interface Belonging {
  /** Whether it may be a part of another. */
  isPart(attempt: Attempt): boolean;
  isWhole(attempt: Attempt): boolean;
  belongs(part: Attempt, whole: Attempt, machineOf: MachineOf): boolean;
  together(whole: Attempt, part: Attempt): Attempt;
}
/** Which machine is at an end; null: nobody knows. */
type MachineOf = (place: AttemptPlace) => object | null;

/** A sign-in that the wire shows refused, and the line of the server’s own log: that names no port, and knows why. */
const signIn: Belonging = {
  isPart: (attempt) => attempt.to.port === null && refusedSignIn(attempt) !== undefined,
  isWhole: (attempt) => attempt.to.port !== null && refusedSignIn(attempt) !== undefined,
  belongs: (line, wire, machineOf) =>
    isOneMachine(wire.from, line.from, machineOf) &&
    isOneMachine(wire.to, line.to, machineOf) &&
    (wire.as === null || line.as === null || userOf(wire.as) === userOf(line.as)),
  together: (wire, line) => {
    const known = refusedSignIn(line);
    const facts = wire.facts.map((fact) =>
      fact.kind === 'classic-sign-in' && known ? { ...known, level: fact.level } : fact,
    );
    return { ...wire, ended: line.ended, facts, evidence: [...wire.evidence, ...line.evidence] };
  },
};
/** A client that was not called back, and the server that tried in vain meanwhile. */
const wayBack: Belonging = {
  isPart: ({ facts, ended }) => ended.hasFailed && facts.length === 1 && facts[0]?.kind === 'tcp-connect',
  isWhole: ({ facts }) => facts.some((fact) => fact.kind === 'classic-watch' && fact.failure !== null),
  belongs: (call, watch, machineOf) =>
    isOneMachine(watch.from, call.to, machineOf) && isOneMachine(watch.to, call.from, machineOf),
  together: (watch, call) => ({ ...watch, evidence: [...watch.evidence, ...call.evidence] }),
};

/**
 * Attempts that are parts of others, which only who knows the machines can tell: each becomes evidence of its whole.
 * @param attempts in the order of their starts
 */
export function joinParts(
  attempts: readonly Attempt[],
  machineOf: MachineOf,
  doubtMs = usualDoubtMs,
): readonly Attempt[] {
  return [signIn, wayBack].reduce((all, rule) => joinBy(rule, all, machineOf, doubtMs), attempts);
}

function joinBy(
  rule: Belonging,
  attempts: readonly Attempt[],
  machineOf: MachineOf,
  doubtMs: number,
): readonly Attempt[] {
  const wholes = attempts.filter((attempt) => rule.isWhole(attempt));
  if (wholes.length === 0) return attempts;
  const longest = wholes.reduce((most, { start, end }) => Math.max(most, end - start), 0);
  const parts = new Map<Attempt, Attempt>();
  const wholeOf = new Map<Attempt, Attempt>();
  let first = 0;
  for (const part of attempts) {
    if (!rule.isPart(part)) continue;
    while ((wholes[first]?.start ?? Number.POSITIVE_INFINITY) + longest < part.start - doubtMs) first += 1;
    for (let at = first; at < wholes.length && (wholes[at]?.start ?? 0) <= part.end + doubtMs; at += 1) {
      const whole = wholes[at];
      if (!whole || parts.has(whole) || whole.end < part.start - doubtMs) continue;
      if (!rule.belongs(part, whole, machineOf)) continue;
      parts.set(whole, part);
      wholeOf.set(part, whole);
      break;
    }
  }
  return attempts.flatMap((attempt) => {
    if (wholeOf.has(attempt)) return [];
    const part = parts.get(attempt);
    return part ? rule.together(attempt, part) : attempt;
  });
}

const refusedSignIn = ({ facts }: Attempt) =>
  facts.find((fact) => fact.kind === 'classic-sign-in' && fact.outcome === 'refused');

function isOneMachine(one: AttemptPlace, other: AttemptPlace, machineOf: MachineOf): boolean {
  if (one.address !== null && one.address === other.address) return true;
  const machine = machineOf(one);
  return machine !== null && machine === machineOf(other);
}
const userOf = (name: string): string => name.slice(name.lastIndexOf('\\') + 1).toLowerCase();
