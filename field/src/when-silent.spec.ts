import { whenSilent } from './when-silent';

const later = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));
const turn = (): Promise<void> => new Promise((done) => setImmediate(done));
const standStill = (ms: number): void => void Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, ms);

describe('silence', () => {
  it('is told once, when the time is over', async () => {
    let told = 0;
    await new Promise<void>((over) =>
      whenSilent(5, () => {
        told += 1;
        over();
      }),
    );
    await later(20);
    expect(told).toBe(1);
  });

  it('is not told where it is called off before', async () => {
    let told = 0;
    const callOff = whenSilent(10, () => (told += 1));
    callOff();
    callOff();
    await later(30);
    expect(told).toBe(0);
  });

  it('is not told where something is heard after the time was over, in the same turn', async () => {
    let told = 0;
    await turn();
    const callOff = whenSilent(20, () => (told += 1));
    // Another timer that is over, too: what it does stands for what is heard.
    setTimeout(callOff, 20);
    standStill(60);
    await later(30);
    expect(told).toBe(0);
  });
});
