import { addTo } from './add-to.js';
import type { Attempt } from './attempt.js';

const manyTries = 10;
const withinMs = 5 * 60_000;

const refusalCodes = new Set([
  '4625',
  '4771',
  '4776',
  'BadUserAccessDenied',
  'BadIdentityTokenRejected',
  'BadIdentityTokenInvalid',
]);

/** Whether somebody was refused as who he said that he is. */
export const isRefusedSignIn = ({ ended, facts }: Attempt): boolean =>
  refusalCodes.has(ended.code) || facts.some((fact) => fact.kind === 'classic-sign-in' && fact.outcome === 'refused');

/**
 * Attempts that belong to many refused sign-ins: ten from one place within five minutes. One account that a link uses is
 * none of it: its client keeps trying, and the case of its link says so.
 * @param isOfLink whether an attempt belongs to a link
 */
export function guessesIn(
  attempts: readonly Attempt[],
  isOfLink: (attempt: Attempt) => boolean,
): ReadonlyMap<Attempt, string> {
  const byPlace = new Map<string, Attempt[]>();
  for (const attempt of attempts) {
    const place = attempt.from.address ?? attempt.from.name;
    if (place !== null && isRefusedSignIn(attempt)) addTo(byPlace, place, attempt);
  }
  const guesses = new Map<Attempt, string>();
  for (const [place, all] of byPlace)
    for (const run of runsIn(all)) {
      const accounts = new Set(run.map(({ as }) => as?.toLowerCase() ?? null));
      const isOwn = accounts.size === 1 && run.every(isOfLink);
      if (!isOwn) for (const attempt of run) guesses.set(attempt, place);
    }
  return guesses;
}

/** Of the attempts of one place, those that lie dense enough. */
function runsIn(all: readonly Attempt[]): readonly (readonly Attempt[])[] {
  const spans: [number, number][] = [];
  let from = 0;
  all.forEach((attempt, index) => {
    while (attempt.start - (all[from]?.start ?? attempt.start) > withinMs) from += 1;
    if (index + 1 - from < manyTries) return;
    const last = spans.at(-1);
    if (last && last[1] >= from) last[1] = index + 1;
    else spans.push([from, index + 1]);
  });
  return spans.map(([begin, end]) => all.slice(begin, end));
}
