import { oneLine } from './one-line.js';

describe('a text in one line', () => {
  it.each([
    ['a\nb', 'a\\u{a}b'],
    ['a\r\nb', 'a\\u{d}\\u{a}b'],
    ['\u001b[2Jgone', '\\u{1b}[2Jgone'],
    ['left\u202eright', 'left\\u{202e}right'],
    ['a\u2028b', 'a\\u{2028}b'],
    ['a\u0085b', 'a\\u{85}b'],
    ['half\ud800', 'half\\u{d800}'],
  ])('shows what would break it by its code: %j', (text, line) => expect(oneLine(text)).toBe(line));

  it.each(['Öfen 2, Süd', '冷却水', '😀', 'a b'])('is left as it is: %s', (text) => expect(oneLine(text)).toBe(text));
});
