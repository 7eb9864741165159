import { Newest } from './newest.js';

describe('what comes until it is taken', () => {
  it('is taken once, in its order', () => {
    const newest = new Newest<number>(3);
    expect(newest.isEmpty).toBe(true);
    newest.push(1);
    newest.push(2);
    expect(newest.isEmpty).toBe(false);
    expect(newest.take()).toEqual({ items: [1, 2], skipped: 0 });
    expect([newest.isEmpty, newest.take()]).toEqual([true, { items: [], skipped: 0 }]);
  });

  it.each([3, 4, 5, 6, 7, 100])('of %d has room for the newest three, and counts the others', (count) => {
    const newest = new Newest<number>(3);
    for (let item = 1; item <= count; item += 1) newest.push(item);
    expect(newest.take()).toEqual({ items: [count - 2, count - 1, count], skipped: count - 3 });
    newest.push(0);
    expect(newest.take()).toEqual({ items: [0], skipped: 0 });
  });
});
