import { Pace } from './pace';

describe('a pace', () => {
  it('lets no more through in a second than it may', () => {
    const pace = new Pace(10_000);
    let now = 1_000_000;
    let sent = 0;
    for (const end = now + 10_000; now < end;) {
      now += pace.take(700, now);
      if (now < end) sent += 700;
    }
    expect(sent).toBeGreaterThan(98_000);
    expect(sent).toBeLessThanOrEqual(102_000);
  });

  it('gives back no more than a tenth of a second of what was not used', () => {
    const pace = new Pace(10_000);
    pace.take(1, 0);
    expect(pace.take(1_000, 60_000)).toBe(0);
    expect(pace.take(1_000, 60_000)).toBe(0);
    expect(pace.take(1_000, 60_000)).toBeCloseTo(100);
  });
});
