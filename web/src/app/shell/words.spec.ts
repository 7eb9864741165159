import { lookingFor } from './words';

describe('words that are looked for', () => {
  it('must all be there, in any order and case, in whichever text', () => {
    const fits = lookingFor('  GLASS tin ');
    expect(fits('Tin bath', 'glass lab')).toBe(true);
    expect(fits('Tin bath', null)).toBe(false);
  });

  it('fit everything where nothing was typed', () => {
    expect(lookingFor('   ')('anything')).toBe(true);
    expect(lookingFor('')()).toBe(true);
  });
});
