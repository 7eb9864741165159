import { Turns } from './turns.js';

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

describe('turns', () => {
  it('lets work on one machine run one after the other, and on others at once', async () => {
    const turns = new Turns();
    const running = new Map<string, number>();
    let most = 0;
    let together = 0;
    const work = (key: string) =>
      turns.take(key, async () => {
        running.set(key, (running.get(key) ?? 0) + 1);
        most = Math.max(most, running.get(key) ?? 0);
        together = Math.max(
          together,
          [...running.values()].reduce((sum, count) => sum + count, 0),
        );
        await pause(5);
        running.set(key, (running.get(key) ?? 0) - 1);
      });
    await Promise.all([work('a'), work('a'), work('b'), work('a'), work('b')]);
    expect([most, together]).toEqual([1, 2]);
  });

  it('goes on after work that failed', async () => {
    const turns = new Turns();
    await expect(turns.take('a', () => Promise.reject(new Error('no')))).rejects.toThrow('no');
    await expect(turns.take('a', () => Promise.resolve('yes'))).resolves.toBe('yes');
  });

  it('still keeps others waiting after one that waited has left', async () => {
    const turns = new Turns();
    let finish: () => void = () => undefined;
    const held = turns.take('a', () => new Promise<void>((resolve) => (finish = resolve)));
    const refusal = () => Promise.resolve(new Error('in use'));
    await expect(
      turns.take('a', () => Promise.resolve('too early'), { signal: AbortSignal.timeout(5), refusal }),
    ).rejects.toThrow('in use');
    let isThere = false;
    const next = turns.take('a', async () => void (isThere = true));
    await pause(20);
    expect(isThere).toBe(false);
    finish();
    await Promise.all([held, next]);
    expect(isThere).toBe(true);
  });
});
