import type { Schema } from './fits';

/** Something must be chosen. */
export const chosenOne: Schema = {
  safeParse: (value) => (value === '' ? { error: { issues: [{ message: 'Choose one.' }] } } : {}),
};
