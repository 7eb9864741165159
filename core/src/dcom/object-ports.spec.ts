import { portsIn } from './object-ports.js';

describe('ports for objects', () => {
  it('are counted as the setting gives them, and what can’t be read for nothing', () => {
    const told: readonly (readonly [readonly string[], number])[] = [
      [[], 0],
      [['5000-5100'], 101],
      [[' 3300 ', '49152-65535'], 16_385],
      [['5100-5000', '0-7', '65535-65536', 'all', ''], 0],
    ];
    for (const [ranges, count] of told) expect(portsIn(ranges)).toBe(count);
  });
});
