import { fitsWords } from './words.js';

describe('words that are looked for', () => {
  it('must all be there, in any order and case, in whichever text', () => {
    const fits = fitsWords('  GLASS tin ');
    expect(fits('Tin bath', 'glass lab')).toBe(true);
    expect(fits('Tin bath', null)).toBe(false);
  });

  it('fit everything where nothing was typed', () => {
    expect(fitsWords('   ')('anything')).toBe(true);
    expect(fitsWords('')()).toBe(true);
  });
});
