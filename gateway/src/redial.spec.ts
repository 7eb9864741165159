import { Redial } from './redial';

describe('dialling again', () => {
  beforeEach(() => jest.useFakeTimers());
  afterEach(() => jest.useRealTimers());

  it('waits longer each time, and begins anew once it was there', () => {
    let dials = 0;
    const redial = new Redial(() => (dials += 1));
    const waitFor = (): number => {
      redial.later();
      const before = dials;
      let waited = 0;
      for (; dials === before; waited += 10) jest.advanceTimersByTime(10);
      return waited;
    };
    const waits = Array.from({ length: 8 }, waitFor);
    expect(waits[0]).toBeLessThan(400);
    expect(waits[7]).toBeGreaterThan(10_000);
    expect(Math.max(...waits)).toBeLessThan(20_000);
    redial.wasThere();
    expect(waitFor()).toBeLessThan(400);
  });

  it('tries nobody again who was refused, for long', () => {
    let dials = 0;
    const redial = new Redial(() => (dials += 1));
    redial.later(true);
    jest.advanceTimersByTime(14 * 60_000);
    expect(dials).toBe(0);
    jest.advanceTimersByTime(60_000);
    expect(dials).toBe(1);
  });

  it('is over when it is stopped', () => {
    let dials = 0;
    const redial = new Redial(() => (dials += 1));
    redial.later();
    redial.stop();
    redial.later();
    jest.advanceTimersByTime(60_000);
    expect(dials).toBe(0);
  });
});
