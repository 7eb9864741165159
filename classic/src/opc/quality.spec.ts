import { qualityKind, qualityWords } from './quality.js';

describe('the quality of a value', () => {
  it.each([
    [0xc0, 'good', 'good'],
    [0xd8, 'good', 'good: local override'],
    [0xc3, 'good', 'good, constant'],
    [0x00, 'bad', 'bad'],
    [0x10, 'bad', 'bad: sensor failure'],
    [0x15, 'bad', 'bad: last known value, at its low limit'],
    [0x20, 'bad', 'bad: waiting for initial data'],
    [0x56, 'uncertain', 'uncertain: range of the unit exceeded, at its high limit'],
    [0x80, 'bad', 'bad: status 0, which has no meaning'],
    [0x04c0, 'good', 'good, 4 by the server’s own count'],
  ] as const)('0x%s', (quality, kind, words) => {
    expect(qualityKind(quality)).toBe(kind);
    expect(qualityWords(quality)).toBe(words);
  });
});
