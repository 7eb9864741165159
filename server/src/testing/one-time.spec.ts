import { oneTimeCode } from './one-time';

describe('one-time codes', () => {
  // RFC 6238, appendix B, the last six of the eight digits.
  it.each([
    [59, '287082'],
    [1_111_111_109, '081804'],
    [1_234_567_890, '005924'],
    [20_000_000_000, '353130'],
  ])('at second %d are those of the standard', (seconds, code) => {
    expect(oneTimeCode('GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ', 0, seconds * 1000)).toBe(code);
  });
});
