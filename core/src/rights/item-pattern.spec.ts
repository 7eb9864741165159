import { fitsPattern, isPatternFault, itemPattern, patternForPath, mayFitBelow } from './item-pattern.js';

const fits = (pattern: string, path: string): boolean => {
  const read = itemPattern(pattern);
  if (isPatternFault(read)) throw new Error(read.says);
  return fitsPattern(read, path.split('/'));
};
const faultOf = (pattern: string): string | null => {
  const read = itemPattern(pattern);
  return isPatternFault(read) ? read.says : null;
};

describe('a pattern for items', () => {
  it.each([
    ['Lehr/Zone A/Temperature', 'Lehr/Zone A/Temperature', true],
    ['Lehr/Zone A/Temperature', 'Lehr/Zone A', false],
    ['Lehr/*/Temperature', 'Lehr/Zone A/Temperature', true],
    ['Lehr/*/Temperature', 'Lehr/Zone A/Upper/Temperature', false],
    ['Lehr/Zone ?', 'Lehr/Zone A', true],
    ['Lehr/Zone ?', 'Lehr/Zone AB', false],
    ['Lehr/*one*', 'Lehr/Zone A', true],
    ['*', 'Lehr', true],
    ['*', 'Lehr/Zone A', false],
  ])('%s and %s: %s', (pattern, path, expected) => expect(fits(pattern, path)).toBe(expected));

  it.each([
    ['**', 'Lehr', true],
    ['**', 'Lehr/Zone A/Temperature', true],
    ['**/Temperature', 'Temperature', true],
    ['**/Temperature', 'Lehr/Zone A/Temperature', true],
    ['Lehr/**', 'Lehr', true],
    ['Lehr/**/Temperature', 'Lehr/Zone A/Upper/Temperature', true],
    ['Lehr/**/Upper/**', 'Lehr/Zone A/Upper/Temperature', true],
    ['Lehr/**/Lower/**', 'Lehr/Zone A/Upper/Temperature', false],
    ['Lehr/**/**/Temperature', 'Lehr/Temperature', true],
  ])('stands for any number of parts: %s and %s: %s', (pattern, path, expected) =>
    expect(fits(pattern, path)).toBe(expected),
  );

  it.each([
    ['Pump [1-12]', 'Pump 7', true],
    ['Pump [1-12]', 'Pump 12', true],
    ['Pump [1-12]', 'Pump 13', false],
    ['Pump [1-3]*', 'Pump 12', false],
    ['Pump [7-12]', 'Pump 07', true],
    ['Zone [A-C]', 'Zone B', true],
    ['Zone [A-C]', 'Zone D', false],
  ])('has ranges of numbers and letters: %s and %s: %s', (pattern, path, expected) =>
    expect(fits(pattern, path)).toBe(expected),
  );

  it('takes signs for themselves after a backslash, and makes such patterns of paths', () => {
    expect(fits('a\\*b', 'a*b')).toBe(true);
    expect(fits('a\\*b', 'axb')).toBe(false);
    const odd = ['Odd *name?', 'with [1-2] and \\', 'plain'];
    const read = itemPattern(patternForPath(odd));
    expect(!isPatternFault(read) && fitsPattern(read, odd)).toBe(true);
    const slash = itemPattern(patternForPath(['a/b']));
    expect(!isPatternFault(slash) && fitsPattern(slash, ['a/b'])).toBe(true);
  });

  it('says what is wrong with one that is none', () => {
    expect(faultOf('')).toMatch(/pattern is needed/);
    expect(faultOf('a//b')).toMatch(/is empty/);
    expect(faultOf('Pump [12-1]')).toMatch(/range that is none/);
    expect(faultOf('Pump [1-')).toMatch(/range that is none/);
    expect(faultOf('x'.repeat(501))).toMatch(/at most 500/);
    expect(faultOf(Array(80).fill('a').join('/'))).toMatch(/at most 64 parts/);
  });

  it('is no trap: many stars end at once', () => {
    expect(fits(`${'*a'.repeat(40)}b`, 'a'.repeat(200))).toBe(false);
    expect(fits(`${'**/a/'.repeat(30)}b`, Array(60).fill('a').join('/'))).toBe(false);
  });
});

describe('below a path', () => {
  const below = (text: string, path: string): boolean => {
    const read = itemPattern(text);
    return !isPatternFault(read) && mayFitBelow(read, path === '' ? [] : path.split('/'));
  };

  it.each([
    ['Lehr/Zone */Temperature', '', true],
    ['Lehr/Zone */Temperature', 'Lehr', true],
    ['Lehr/Zone */Temperature', 'Lehr/Zone A', true],
    ['Lehr/Zone */Temperature', 'Lehr/Zone A/Temperature', false],
    ['Lehr/Zone */Temperature', 'Lehr/Roller speed', false],
    ['Lehr/Zone */Temperature', 'Furnace', false],
    ['Lehr/**', 'Lehr/Zone A/Temperature', true],
    ['**/Temperature', 'Furnace/Anything', true],
    ['Lehr/**/Temperature', 'Furnace', false],
  ])('something can fit %s or not: %s', (text, path, may) => {
    expect(below(text, path)).toBe(may);
  });
});
