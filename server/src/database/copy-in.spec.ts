import { cellOf } from './copy-in.js';

describe('a cell for COPY', () => {
  it('is told apart from the dividers of rows and cells', () => {
    expect(cellOf('a\tb\nc\rd\\e')).toBe('a\\tb\\nc\\rd\\\\e');
  });

  it('may be nothing, which is not the same as an empty text', () => {
    expect(cellOf(null)).toBe('\\N');
    expect(cellOf('')).toBe('');
    expect(cellOf('\\N')).toBe('\\\\N');
  });

  it('may be a list, whose texts keep their quotes, commas and braces', () => {
    expect(cellOf([4840, 4841])).toBe('{4840,4841}');
    expect(cellOf(['a,b', '{c}', 'say "d"', 'e\\f', ''])).toBe('{"a,b","{c}","say \\\\"d\\\\"","e\\\\\\\\f",""}');
  });

  it('may be JSON', () => {
    expect(cellOf({ json: { path: 'a\\b\tc' } })).toBe('{"path":"a\\\\\\\\b\\\\tc"}');
    expect(cellOf({ json: null })).toBe('null');
  });
});
