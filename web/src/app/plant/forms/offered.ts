import type { Choosable, KnownMatches } from '@loyal-hinge/contract';
import type { LinkKindId, Zone } from '@loyal-hinge/core';
import type { Choice } from '../../forms/choose';
import type { Choices } from '../state';

/** What a form offers for choosing. */
export interface Offered {
  readonly zones: readonly Zone[];
  readonly choices: Choices;
  /** What the row that is changed has chosen already, by its name. */
  readonly known: readonly Choice[];
  /** What the needed items stand for; null: nobody asked. */
  readonly matches: KnownMatches | null;
}

/** Words that somebody looks for among what can be chosen. */
export interface LookFor {
  readonly of: Choosable;
  readonly find: string;
  /** Only applications that speak it. */
  readonly speaks?: LinkKindId;
}

/** Of so many one is found by looking through them. */
const many = 60;

/** Those that were looked for, and the one that is chosen already; `looksElsewhere`: there are more. */
export function chosenFrom(of: Choosable, { choices, known }: Offered) {
  const found = choices[of];
  const options = (found?.choices ?? []).map(({ id, name }) => ({ key: id, word: name }));
  const own = known.filter(({ key }) => !options.some((one) => one.key === key));
  const isMore = found !== null && found.fitting > found.choices.length;
  return { options: [...own, ...options], looksElsewhere: isMore || options.length > many };
}
