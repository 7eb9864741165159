import * as z from 'zod';
import { plainly } from './index.js';

const schema = z.object({
  name: z.string().min(1).max(5).optional(),
  secret: z.string().min(10).optional(),
  days: z.int().min(1).max(30).multipleOf(2).optional(),
  hosts: z.array(z.string()).min(1).max(2).optional(),
  way: z.enum(['push', 'files']).optional(),
  own: z.string('A sentence of its own.').optional(),
});
const saysOf = (value: object): string | undefined =>
  schema.safeParse(value, { error: plainly }).error?.issues[0]?.message;

describe('what is wrong with a value, in plain words', () => {
  it.each([
    [{ name: '' }, 'This is needed.'],
    [{ name: null }, 'This is needed.'],
    [{ name: 3 }, 'This must be a text.'],
    [{ name: 'abcdef' }, 'At most 5 letters.'],
    [{ secret: 'short' }, 'At least 10 letters.'],
    [{ days: 0 }, 'At least 1.'],
    [{ days: 31 }, 'At most 30.'],
    [{ days: 3 }, 'This must be a multiple of 2.'],
    [{ days: 1.5 }, 'This must be a whole number.'],
    [{ hosts: [] }, 'At least 1 entry.'],
    [{ hosts: ['a', 'b', 'c'] }, 'At most 2 entries.'],
    [{ way: 'wire' }, 'This must be one of: push, files.'],
    [{ own: 3 }, 'A sentence of its own.'],
    [{ name: 'abc' }, undefined],
  ])('%j', (value, says) => expect(saysOf(value)).toBe(says));
});
