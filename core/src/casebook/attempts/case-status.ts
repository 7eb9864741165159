import type { Case } from './cases.js';

/** What somebody did about a case. */
export type CaseActKind =
  /** Wrote something down. */
  | 'note'
  /** Gave it to somebody, or to nobody. */
  | 'assign'
  /** Said that it is over. */
  | 'close'
  /** Said that it is not. */
  | 'reopen';

export interface CaseAct {
  readonly kind: CaseActKind;
  /** Milliseconds since 1970. */
  readonly at: number;
  readonly by: string;
  readonly text: string;
  /** To whom it was given; null: to nobody. */
  readonly to: string | null;
}

/** How a case stands. */
export type CaseStatus =
  | { readonly state: 'open' }
  /** A check saw the link work after the last failure. */
  | { readonly state: 'proved'; readonly at: number }
  /** Somebody said that it is over. */
  | { readonly state: 'closed'; readonly at: number; readonly by: string; readonly why: string };

/**
 * Whatever was said or seen last counts: what failed after somebody closed a case opens it again, what works after somebody
 * opened it proves it.
 * @param last when it failed last, in milliseconds since 1970
 * @param provedAt when a check saw the link work after that; null: none did
 */
export function statusOf(last: number, acts: readonly CaseAct[], provedAt: number | null): CaseStatus {
  const said = acts.filter(({ kind, at }) => (kind === 'close' || kind === 'reopen') && at >= last);
  const newest = said.reduce<CaseAct | null>((one, other) => (one && one.at > other.at ? one : other), null);
  if (provedAt !== null && (!newest || newest.at <= provedAt)) return { state: 'proved', at: provedAt };
  if (newest?.kind !== 'close') return { state: 'open' };
  return { state: 'closed', at: newest.at, by: newest.by, why: newest.text };
}

/**
 * How much a case asks for attention: how often it failed, more where ports were scanned or passwords guessed, and less once it
 * is over. Larger comes first.
 */
export function weightOf({ kind, count }: Pick<Case, 'kind' | 'count'>, { state }: CaseStatus): number {
  const ofKind = kind === 'scan' || kind === 'guessing' ? 4 : kind === 'stranger' ? 1 : 0;
  const ofState = { open: 1, proved: 0, closed: -8 }[state];
  return Math.log2(1 + count) + ofKind + ofState;
}

/** Who has a case now; null: nobody. */
export const assignedTo = (acts: readonly CaseAct[]): string | null =>
  acts
    .filter(({ kind }) => kind === 'assign')
    .reduce<CaseAct | null>((one, other) => (one && one.at > other.at ? one : other), null)?.to ?? null;
