import { byNumber } from '@loyal-hinge/core';
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
        : issue.origin === 'array'
          ? byNumber(Number(issue.minimum), 'At least # entry.', 'At least # entries.')
          : `At least ${issue.minimum}.`;
    case 'too_big':
      return issue.origin === 'string'
        ? `At most ${issue.maximum} letters.`
        : issue.origin === 'array'
          ? byNumber(Number(issue.maximum), 'At most # entry.', 'At most # entries.')
          : `At most ${issue.maximum}.`;
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
