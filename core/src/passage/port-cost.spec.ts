import type { OpeningPurpose } from './openings';
import { portCostOf } from './port-cost';

const opening = (purpose: OpeningPurpose, portCount: number, firewallCount = 1) => ({
  purpose,
  portCount,
  firewallCount,
});

describe('what ports for objects cost', () => {
  it('is counted as it is, with fixed ports, and through a tunnel', () => {
    expect(
      portCostOf([
        opening('mapper', 1),
        opening('objects', 5_007),
        opening('callback-mapper', 1),
        opening('callback-objects', 5_007),
      ]),
    ).toEqual({ now: 10_016, fixed: 4, tunnelled: 1 });
  });

  it('counts what firewalls have to open alone', () => {
    expect(portCostOf([opening('mapper', 1, 0), opening('objects', 100, 0), opening('callback-objects', 50)])).toEqual({
      now: 50,
      fixed: 1,
      tunnelled: 1,
    });
  });

  it.each([
    [[opening('endpoint', 1)]],
    [[opening('mapper', 1), opening('objects', 1)]],
    [[opening('objects', 16_384, 0)]],
    [[]],
  ])('is not told where there is nothing to win: %#', (openings) => {
    expect(portCostOf(openings)).toBeNull();
  });
});
