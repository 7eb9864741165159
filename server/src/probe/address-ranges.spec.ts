import fc from 'fast-check';
import { isDeclared, isRange, rangesInBoth } from './address-ranges.js';

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

describe('the ranges that lie in two lists', () => {
  const range = fc
    .tuple(fc.integer({ min: 0, max: 3 }), fc.integer({ min: 0, max: 7 }), fc.integer({ min: 0, max: 24 }))
    .map(([first, second, bits]) => `10.${first}.${second}.0/${bits}`);
  const ranges = fc.array(range, { maxLength: 4 });
  const address = fc
    .tuple(fc.integer({ min: 0, max: 4 }), fc.integer({ min: 0, max: 8 }))
    .map(([first, second]) => `10.${first}.${second}.9`);

  it('let just those addresses be dialled that both let', () => {
    fc.assert(
      fc.property(ranges, ranges, address, (ones, others, each) => {
        expect(isDeclared(each, rangesInBoth(ones, others))).toBe(isDeclared(each, ones) && isDeclared(each, others));
      }),
    );
  });

  it('are none where one is of the other family', () => {
    expect(rangesInBoth(['10.0.0.0/8'], ['::/0', 'fd00::/8'])).toEqual([]);
    expect(rangesInBoth(['fd00:1::/32'], ['fd00::/8'])).toEqual(['fd00:1::/32']);
  });
});
