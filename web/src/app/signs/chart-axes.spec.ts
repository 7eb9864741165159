import { levelsOf, momentsOf, timeScale, valueScale } from './chart-axes';

describe('the axes of a chart', () => {
  it('reach over all values, and leave out those that are missing', () => {
    const scale = valueScale([4, null, 12, 8], [100, 0]);
    expect([scale(4), scale(8), scale(12)]).toEqual([100, 50, 0]);
  });

  it('stand where all values are the same, or there is none', () => {
    expect(valueScale([7, 7], [100, 0])(7)).toBe(100);
    expect(valueScale([], [100, 0]).domain()).toEqual([0, 1]);
    expect(timeScale([5], [0, 10]).domain().map(Number)).toEqual([5, 6]);
  });

  it('tell levels apart by their digits, or as somebody says them', () => {
    const scale = valueScale([0, 0.2], [100, 0]);
    expect(levelsOf(scale, 4).map(({ text }) => text)).toEqual(['0.00', '0.05', '0.10', '0.15', '0.20']);
    expect(levelsOf(valueScale([0, 2], [10, 0]), 2, (value) => `${value}/s`).map(({ text }) => text)).toEqual([
      '0/s',
      '1/s',
      '2/s',
    ]);
  });

  it('tell moments the coarser the longer the span is, and none twice', () => {
    const day = 24 * 3_600_000;
    const texts = (spanMs: number) => momentsOf(timeScale([0, spanMs], [0, 1000]), 6).map(({ text }) => text);
    expect(texts(60_000)[0]).toMatch(/^\d\d:\d\d:\d\d$/);
    expect(texts(2 * 3_600_000)[0]).toMatch(/^\d\d:\d\d$/);
    expect(texts(9 * day)[0]).toMatch(/\d (Jan|Dec)/);
    const within = texts(1000);
    expect(new Set(within).size).toBe(within.length);
  });
});
