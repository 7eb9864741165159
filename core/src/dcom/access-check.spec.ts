import { checkAccess } from './access-check.js';
import type { AccessToken } from './access-check.js';
import { readSddl } from './sddl.js';

const me = 'S-1-5-21-1-2-3-1001';
const operators = 'S-1-5-21-1-2-3-2001';
const administrators = 'S-1-5-32-544';
const token = (differs: Partial<AccessToken> = {}): AccessToken => ({
  user: me,
  groups: ['S-1-1-0', operators],
  denyOnly: [],
  ...differs,
});

function checked(sddl: string, mask: number, differs: Partial<AccessToken> = {}) {
  const read = readSddl(sddl);
  if (!read.ok) throw new Error(read.fault.says);
  const { isAllowed, granted, decidedBy } = checkAccess(read.value, token(differs), mask);
  return [isAllowed, granted, decidedBy?.index ?? null];
}

describe('whether somebody is given what they ask for', () => {
  it.each<[string, string, number, Partial<AccessToken>, (boolean | number | null)[]]>([
    ['no list gives everything', 'O:BA', 0x1f, {}, [true, 0x1f, null]],
    ['an empty list gives nothing', 'O:BAD:', 1, {}, [false, 0, null]],
    ['an entry for a group gives', `D:(A;;0x1f;;;${operators})`, 0x14, {}, [true, 0x14, 0]],
    ['an entry for others does not', 'D:(A;;0x1f;;;BA)', 1, {}, [false, 0, null]],
    ['several give together', `D:(A;;1;;;WD)(A;;4;;;${me})`, 5, {}, [true, 5, 1]],
    ['something is missing', 'D:(A;;1;;;WD)', 5, {}, [false, 0, null]],
    ['what is denied first counts', `D:(D;;4;;;WD)(A;;0x1f;;;${me})`, 5, {}, [false, 0, 0]],
    ['what was given before is not taken', `D:(A;;0x1f;;;${me})(D;;4;;;WD)`, 5, {}, [true, 5, 0]],
    ['what is denied and not asked for does no harm', `D:(D;;8;;;WD)(A;;0x1f;;;${me})`, 5, {}, [true, 5, 1]],
    ['what is only inherited counts for nothing', `D:(D;IO;4;;;WD)(A;;4;;;${me})`, 4, {}, [true, 4, 1]],
    ['a group that only denies gives nothing', 'D:(A;;1;;;BA)', 1, { denyOnly: [administrators] }, [false, 0, null]],
    ['and denies', 'D:(D;;1;;;BA)(A;;1;;;WD)', 1, { denyOnly: [administrators] }, [false, 0, 0]],
    ['an owner may read and change the list', `O:${me}D:`, 0x60000, {}, [true, 0x60000, null]],
    ['even where that is denied', `O:${me}D:(D;;0x60000;;;WD)`, 0x60000, {}, [true, 0x60000, null]],
    ['unless an entry says what owners may', `O:${me}D:(A;;1;;;OW)`, 0x60001, {}, [false, 0, null]],
    ['which they may then', `O:${me}D:(A;;1;;;OW)`, 1, {}, [true, 1, 0]],
    ['others are no owners', 'O:BAD:(A;;1;;;OW)', 1, {}, [false, 0, null]],
    ['a group that only denies is no owner', 'O:BAD:', 0x20000, { denyOnly: [administrators] }, [false, 0, null]],
    ['as much as there is', `D:(A;;3;;;WD)(D;;6;;;WD)(A;;0xc;;;${me})`, 0x02000000, {}, [true, 0xb, null]],
    ['as much as there is, which is nothing', 'D:(A;;3;;;BA)', 0x02000000, {}, [false, 0, null]],
    ['as much as there is, and something that must be', 'D:(A;;3;;;WD)', 0x02000004, {}, [false, 0, null]],
    ['an entry for kinds of objects that names none', 'D:(OA;;1;;;WD)', 1, {}, [true, 1, 0]],
    ['one that names some', 'D:(OA;;1;bf967aba-0de6-11d0-a285-00aa003049e2;;WD)', 1, {}, [false, 0, null]],
    ['the highest bit', 'D:(A;;GR;;;WD)', 0x80000000, {}, [true, 0x80000000, 0]],
    ['nothing is always given', 'D:(D;;0xffffffff;;;WD)', 0, {}, [true, 0, null]],
  ])('%s', (_, sddl, mask, differs, told) => {
    expect(checked(sddl, mask, differs)).toEqual(told);
  });
});
