import { dateOf, millisOfDate } from './date.js';
import { variantText } from './variant.js';

const at = (text: string): number => Date.parse(text);

describe('dates in days', () => {
  it('count from 1899-12-30, and what is left of a day counts on, also before it (MS-OAUT 2.2.25)', () => {
    const known: readonly (readonly [string, number])[] = [
      ['1899-12-30T00:00:00Z', 0],
      ['1899-12-31T12:00:00Z', 1.5],
      ['1899-12-29T06:00:00Z', -1.25],
      ['2026-11-27T18:00:00Z', 46_353.75],
    ];
    for (const [text, days] of known) {
      expect(dateOf(at(text))).toBe(days);
      expect(millisOfDate(days)).toBe(at(text));
    }
  });

  it('come back to the millisecond', () => {
    for (const millis of [0, 1, 86_399_999, at('1850-03-01T23:59:59.999Z'), at('2099-12-31T00:00:00.001Z')])
      expect(millisOfDate(dateOf(millis))).toBe(millis);
  });

  it('are told in UTC; what is no moment as the number that it is', () => {
    expect(variantText({ type: 'date', value: 46_353.75 })).toBe('2026-11-27T18:00:00.000Z');
    expect(variantText({ type: 'date', value: 1e12 })).toBe('1000000000000');
    expect(variantText({ type: 'currency', value: -12_345n })).toBe('-1.2345');
    expect(variantText({ type: 'error', value: 0x80070005 })).toBe('0x80070005');
  });
});
