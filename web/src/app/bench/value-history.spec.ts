import { PointRing, ValueHistory } from './value-history';

describe('the history of watched values', () => {
  it('keeps the newest points, the oldest of them first', () => {
    const ring = new PointRing(3);
    expect(ring.newest()).toEqual([]);
    for (let at = 1; at <= 5; at += 1) ring.push(at, at * 10);
    expect(ring.newest()).toEqual([
      { at: 3, value: 30 },
      { at: 4, value: 40 },
      { at: 5, value: 50 },
    ]);
    expect(ring.newest(1)).toEqual([{ at: 5, value: 50 }]);
  });

  it('keeps fewer of each where there are many, and at least a minute of them', () => {
    const history = new ValueHistory();
    for (let item = 0; item < 5000; item += 1)
      for (let at = 0; at < (item === 0 || item === 4999 ? 1500 : 1); at += 1) history.push(`l\n${item}`, at, at);
    expect(history.newest('l\n0')).toHaveLength(1200);
    expect(history.newest('l\n4999')).toHaveLength(240);
  });

  it('breaks off where a session is lost, and forgets what is let go', () => {
    const history = new ValueHistory();
    history.push('l\na', 1, 5);
    history.push('m\na', 1, 5);
    history.breakAt(2, (key) => key.startsWith('l'));
    expect(history.newest('l\na').map(({ value }) => value)).toEqual([5, NaN]);
    expect(history.newest('m\na').map(({ value }) => value)).toEqual([5]);
    history.keepOnly(new Set(['m\na']));
    expect(history.newest('l\na')).toEqual([]);
  });
});
