import type { CandidateForm } from './candidate-forms.js';
import { shareOf } from './match-value.js';
import type { Match } from './match-value.js';
import { simplicityOf } from './plain-numbers.js';
import type { ValueForm } from './value-form.js';

/** A place and a form that explain the value. */
export interface Candidate {
  readonly place: number;
  readonly form: ValueForm;
  /** By how many samples the server’s value comes later than the device’s. */
  readonly lag: number;
  /** Readings that agree, of those that could be compared. */
  readonly explained: number;
  readonly compared: number;
  /** Changes of the value that the register made as well, of those that there were. */
  readonly changes: number;
  readonly changesSeen: number;
  readonly sureness: Sureness;
}

/**
 * `proved`: it follows many changes, and nothing else does; `likely`: few changes, or not all of them;
 * `alike`: another place says the same so far; `near`: it stays with the value, which moves faster than it was sampled; `unmoved`: the value has not changed, so that any register that holds it would do.
 */
export type Sureness = 'proved' | 'likely' | 'alike' | 'near' | 'unmoved';

/** So many changes tell a register from one that happens to be near. */
const enoughChanges = 5;
const wellExplained = 0.9;
/** Of what is only near, so many are told. */
const mostNear = 5;
export const mostCandidates = 20;

/** A match, with the place and the form that it was found by. */
export interface Scored extends Match {
  readonly place: number;
  readonly form: CandidateForm;
}

/** The best first, each with how sure it is beside the others. */
export function ranked(found: readonly Scored[], changesSeen: number): readonly Candidate[] {
  const sorted = [...found].sort(
    (left, right) =>
      Number(left.off !== null) - Number(right.off !== null) ||
      (left.off ?? 0) - (right.off ?? 0) ||
      right.changes - left.changes ||
      shareOf(right) - shareOf(left) ||
      costOf(left) - costOf(right) ||
      left.place - right.place,
  );
  // The same place in a longer form, whose other words don’t move, is the same finding said with more.
  const kept = sorted.filter((one, index) => !sorted.slice(0, index).some((before) => isContained(before, one)));
  const exact = kept.filter(({ off }) => off === null);
  // Where values are explained as they are, nobody asks what is near.
  const near = exact.some((one) => shareOf(one) >= wellExplained)
    ? []
    : kept.filter(({ off }) => off !== null).slice(0, mostNear);
  return [...exact, ...near].slice(0, mostCandidates).map((one) => {
    const others = kept.filter((other) => other !== one && isAsGood(other, one));
    return {
      place: one.place,
      form: { ...one.form.form, scale: one.scale, offset: one.offset },
      lag: one.lag,
      explained: one.explained,
      compared: one.compared,
      changes: one.changes,
      changesSeen,
      sureness:
        changesSeen === 0
          ? 'unmoved'
          : one.off !== null
            ? 'near'
            : others.length > 0
              ? 'alike'
              : one.changes >= enoughChanges && shareOf(one) >= wellExplained
                ? 'proved'
                : 'likely',
    };
  });
}

const isAsGood = (other: Scored, one: Scored): boolean =>
  other.changes >= one.changes && shareOf(other) >= shareOf(one) && costOf(other) <= costOf(one) + 1;

const isContained = (shorter: Scored, longer: Scored): boolean =>
  shorter.place >= longer.place &&
  shorter.place + shorter.form.words <= longer.place + longer.form.words &&
  shorter.changes >= longer.changes &&
  costOf(shorter) <= costOf(longer);

/** What a finding takes for granted: the less, the better it explains. */
const costOf = ({ form, scale, offset }: Scored): number =>
  form.cost + simplicityOf(scale) * 2 + (offset === 0 ? 0 : 1 + simplicityOf(offset));
