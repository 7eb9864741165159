import type { Plant } from '../../plant/plant.js';
import type { Attempt } from './attempt.js';

/** What stands instead of a name. */
const somebody = 'somebody';
/** Keys whose values name no person: what programs find each other by. */
const plainKeys = /^(?:id|kind|step|state|verdict|source|at|first|last)$|Id$/;

const shortOf = (name: string): string => name.slice(name.lastIndexOf('\\') + 1).toLowerCase();

/** Accounts that attempts name, and that no link of the plant signs in as: they may be people. */
export function personalNames(attempts: readonly Attempt[], { links }: Plant): ReadonlySet<string> {
  const own = new Set(links.flatMap(({ identity }) => (identity.kind === 'user' ? shortOf(identity.userName) : [])));
  return new Set(attempts.flatMap(({ as }) => (as === null || own.has(shortOf(as)) ? [] : [as])));
}

/** The same value with no personal name in any text of it, whichever way it is written. */
export function withoutNames<Value>(value: Value, names: ReadonlySet<string>): Value {
  if (names.size === 0) return value;
  const forms = new Set([...names].flatMap((name) => [name, shortOf(name)]).filter((form) => form !== ''));
  const longestFirst = [...forms].sort((one, other) => other.length - one.length);
  const parts = longestFirst.map((form) => form.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'));
  const pattern = new RegExp(`(?<![\\p{L}\\p{N}_])(?:${parts.join('|')})(?![\\p{L}\\p{N}_])`, 'giu');
  return masked(value, pattern) as Value;
}

function masked(value: unknown, pattern: RegExp): unknown {
  if (typeof value === 'string') return value.replace(pattern, somebody);
  if (Array.isArray(value)) return value.map((one) => masked(one, pattern));
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(
    Object.entries(value).map(([key, inner]) => [key, plainKeys.test(key) ? inner : masked(inner, pattern)]),
  );
}
