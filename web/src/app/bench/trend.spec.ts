import { Shown } from '../../testing/show';
import { Trend } from './trend';

const drawn = (
  values: readonly number[],
  apartMs = 1000,
): { path: string; words: string; texts: readonly string[] } => {
  const shown = Shown.of(Trend, {
    name: 'Crown',
    unit: '°C',
    points: values.map((value, index) => ({ at: Date.UTC(2026, 2, 1) + index * apartMs, value })),
  });
  const svg = shown.all('svg').at(-1);
  return {
    path: svg?.querySelector('path')?.getAttribute('d') ?? '',
    words: svg?.getAttribute('aria-label') ?? '',
    texts: [...(svg?.querySelectorAll('text') ?? [])].map(({ textContent }) => textContent ?? ''),
  };
};

describe('the trend', () => {
  it('holds each value until the next one came', () => {
    const { path } = drawn([0, 10]);
    expect(path).toMatch(/^M64,196L1096,196L1096,8$/);
  });

  it('has levels and times beside it, and says in words what it draws', () => {
    const { words, texts } = drawn([3, 1, 2]);
    expect(words).toBe('Crown: 3 values in 2 s, between 1 and 3 °C');
    expect(texts).toContain('2.0');
  });

  it('draws no line through a time of which nothing is known', () => {
    const { path, words } = drawn([0, NaN, 10]);
    expect(path.match(/M/g)).toHaveLength(2);
    expect(words).toMatch(/^Crown: 2 values/);
  });

  it('has seconds beside it where it is short, and days where it is long', () => {
    expect(drawn([1, 2, 3]).texts.at(-1)).toMatch(/^\d\d:\d\d:\d\d$/);
    expect(drawn([1, 2, 3], 3_600_000 * 2).texts.at(-1)).toMatch(/^\d\d:\d\d$/);
    expect(drawn([1, 2, 3], 86_400_000 * 2).texts.at(-1)).toMatch(/^\d\d? Mar,? \d\d:\d\d$/);
  });

  it('stays inside its frame where nothing moves or nothing came', () => {
    for (const values of [[], [5], [5, 5]]) expect(drawn(values).path).not.toMatch(/NaN|Infinity/);
  });
});
