import { isDeclared, isRange } from './address-ranges.js';

describe('declared ranges', () => {
  it('hold what lies in them and nothing else', () => {
    const ranges = ['127.41.0.0/16', 'fd00::/8'];
    expect(['127.41.20.11', 'fd00::1', '::ffff:127.41.0.1'].map((address) => isDeclared(address, ranges))).toEqual([
      true,
      true,
      true,
    ]);
    expect(['127.42.0.1', 'fe80::1', 'furnace', ''].map((address) => isDeclared(address, ranges))).toEqual([
      false,
      false,
      false,
      false,
    ]);
    expect(isDeclared('127.41.0.1', [])).toBe(false);
  });

  it('are recognised as ranges', () => {
    expect([isRange('10.0.0.0/8'), isRange('10.0.0.0'), isRange('10.0.0.0/40')]).toEqual([true, false, false]);
  });
});
