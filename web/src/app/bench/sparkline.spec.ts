import { Shown } from '../../testing/show';
import { Sparkline } from './sparkline';

const drawn = (values: readonly number[]): { path: string; words: string } => {
  const shown = Shown.of(Sparkline, { points: values.map((value, index) => ({ at: index, value })) });
  const svg = shown.all('svg').at(-1);
  return {
    path: svg?.querySelector('path')?.getAttribute('d') ?? '',
    words: svg?.getAttribute('aria-label') ?? '',
  };
};

describe('the sparkline', () => {
  it('goes from the first value at the left to the last at the right, high values up', () => {
    expect(drawn([0, 10]).path).toBe('M1,27L129,3');
  });

  it('stays inside its frame where nothing moves', () => {
    expect(drawn([5, 5, 5]).path).not.toMatch(/NaN|Infinity/);
  });

  it('says in words what it draws', () => {
    expect(drawn([3, 1, 2]).words).toBe('3 values between 1 and 3');
    expect(drawn([]).words).toBe('no values yet');
  });
});
