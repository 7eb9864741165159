import type { z } from 'zod';

/**
 * What is wrong with a value, in plain words, where its schema has no sentence of its own: for the field where it was
 * typed, and for answers of the server. To be given to `safeParse` as `error`.
 */
export const plainly: z.core.$ZodErrorMap = (issue) => {
  switch (issue.code) {
    case 'invalid_type':
      return isNothing(issue.input) ? 'This is needed.' : `This must be ${kinds[issue.expected] ?? issue.expected}.`;
    case 'too_small':
      return issue.origin === 'string'
        ? issue.minimum === 1
          ? 'This is needed.'
          : `At least ${issue.minimum} letters.`
        : `At least ${issue.minimum}${issue.origin === 'array' ? ` ${issue.minimum === 1 ? 'entry' : 'entries'}` : ''}.`;
    case 'too_big':
      return `At most ${issue.maximum}${issue.origin === 'string' ? ' letters' : issue.origin === 'array' ? ' entries' : ''}.`;
    case 'invalid_value':
      return `This must be one of: ${issue.values.join(', ')}.`;
    case 'unrecognized_keys':
      return `This is not known: ${issue.keys.join(', ')}.`;
    case 'not_multiple_of':
      return `This must be a multiple of ${issue.divisor}.`;
    default:
      return 'This is not valid.';
  }
};

const isNothing = (input: unknown): boolean => input === undefined || input === null || input === '';

const kinds: Readonly<Record<string, string>> = {
  string: 'a text',
  number: 'a number',
  int: 'a whole number',
  boolean: 'true or false',
  array: 'a list',
  object: 'an object',
  record: 'an object',
};
