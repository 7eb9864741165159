import { RegularLook } from './regular-look.js';

const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

describe('a regular look', () => {
  it('follows the one before it, and goes on after one that fails', async () => {
    let [begun, atOnce, most] = [0, 0, 0];
    const failures: string[] = [];
    const looks = new RegularLook(
      1,
      async () => {
        begun += 1;
        atOnce += 1;
        most = Math.max(most, atOnce);
        await pause(5);
        atOnce -= 1;
        if (begun === 2) throw new Error('away');
      },
      (reason) => failures.push(reason),
    );
    looks.now();
    for (const end = Date.now() + 20_000; begun < 4 && Date.now() < end;) await pause(2);
    await looks.stop();
    expect(begun).toBeGreaterThanOrEqual(4);
    expect(most).toBe(1);
    expect(failures).toEqual(['Error: away']);
    const before = begun;
    await pause(30);
    expect(begun).toBe(before);
  });
});
