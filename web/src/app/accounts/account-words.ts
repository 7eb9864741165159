import { accountWeaknesses } from '@loyal-hinge/core';
import type { AccountWeakness, UserFlag } from '@loyal-hinge/core';
import type { AccountView, SaidWeaknessView } from '@loyal-hinge/contract';

/** What is wrong with accounts, in the words of the filter. */
const weaknessWords: Readonly<Record<AccountWeakness, string>> = {
  refused: 'refused by the server',
  'certificate not stored': 'with a user certificate that is not stored',
  'certificate out of date': 'with a user certificate out of date',
  'certificate not trusted': 'with a user certificate that the server does not trust',
  'certificate ends soon': 'with a user certificate that expires soon',
  'not at the server': 'not known at the server',
  disabled: 'disabled at the server',
  'first password': 'with the first password',
  'passwords differ': 'with differing passwords',
  'never signed in': 'never let in',
  shared: 'shared by several clients',
  'same password elsewhere': 'with a password used elsewhere',
  'not used': 'that no link uses',
};
export const weaknessChoices = [
  { key: 'all', word: 'all' },
  ...accountWeaknesses.map((key) => ({ key, word: weaknessWords[key] })),
];

export const nameWords = (userName: string | null): string => userName ?? 'anonymous';

/** How grave a weakness is, as a tone of the page. */
export const tones: Readonly<Record<SaidWeaknessView['grade'], string>> = {
  fails: 'fails',
  weak: 'weak',
  slight: 'faint',
};

export const flagWords: Readonly<Record<UserFlag, string>> = {
  Disabled: 'disabled',
  MustChangePassword: 'must change the first password',
  NoDelete: 'can’t be removed',
  NoChangeByUser: 'may not change the password',
};

/** Everybody has these (Part 18 §4.3): they are told only of those who have no other. */
const usual: readonly string[] = ['Anonymous', 'AuthenticatedUser'];

export function rolesWords({ roles }: AccountView): string {
  if (roles === null) return 'not read yet';
  const others = roles.filter((name) => !usual.includes(name));
  return (others.length > 0 ? others : roles).join(', ') || 'none';
}
