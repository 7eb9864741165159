import { sayUnits } from './unit-words';

describe('which units of a device answer', () => {
  it('is said of none, of one, and of several', () => {
    expect(sayUnits('Burner panel', [], 32)).toBe('None of these 32 units of Burner panel answers.');
    expect(sayUnits('Burner panel', [], 1)).toBe('The unit of Burner panel doesn’t answer.');
    expect(sayUnits('Burner panel', [3], 32)).toBe('Unit 3 of Burner panel answers.');
    expect(sayUnits('Burner panel', [1, 3, 17], 32)).toBe('Units 1, 3, 17 of Burner panel answer.');
  });
});
