import type { Attempt, AttemptPlace } from './attempt.js';
import { usualDoubtMs } from './join-attempts.js';
import { isSameUser } from './same-user.js';

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
    (wire.as === null || line.as === null || isSameUser(wire.as, line.as)),
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
