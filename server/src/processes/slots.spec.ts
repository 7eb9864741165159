import { Slots } from './slots.js';

describe('slots', () => {
  it('are given to so many and no more, also to those who ask at once and wait afterwards', async () => {
    const slots = new Slots(20);
    const opened = await Promise.all(
      Array.from({ length: 50 }, async () => {
        const free = slots.take();
        await new Promise((resolve) => setTimeout(resolve, 1));
        return free;
      }),
    );
    expect(opened.filter((free) => free !== null)).toHaveLength(20);
  });

  it('are free again once, however often that is said', () => {
    const slots = new Slots(1);
    const free = slots.take();
    expect(slots.take()).toBeNull();
    free?.();
    free?.();
    expect(slots.take()).not.toBeNull();
    expect(slots.take()).toBeNull();
  });
});
