import fc from 'fast-check';
import { SyslogMessages } from './syslog-messages.js';

function cut(pieces: readonly Uint8Array[]): readonly string[] {
  const all: string[] = [];
  const messages = new SyslogMessages((message) => all.push(new TextDecoder().decode(message)));
  for (const piece of pieces) messages.take(piece);
  messages.end();
  return all;
}
const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);

describe('messages of syslog over TCP', () => {
  it('are told by their length, or by their lines', () => {
    expect(cut([bytes('5 <4>ab6 <4>c\nd<4>e\n<4>f')])).toEqual(['<4>ab', '<4>c\nd', '<4>e', '<4>f']);
  });

  it('are the same however they come', () => {
    fc.assert(
      fc.property(
        fc.array(fc.stringMatching(/^<\d>[a-z]{1,9}$/), { maxLength: 9 }),
        fc.array(fc.boolean(), { minLength: 9, maxLength: 9 }),
        fc.integer({ min: 1, max: 9 }),
        (all, counted, size) => {
          const sent = bytes(
            all.map((text, index) => (counted[index] ? `${text.length} ${text}` : `${text}\n`)).join(''),
          );
          const pieces = Array.from({ length: Math.ceil(sent.length / size) }, (_, index) =>
            sent.subarray(index * size, (index + 1) * size),
          );
          expect(cut(pieces)).toEqual(all);
        },
      ),
    );
  });

  it('are never held without end', () => {
    const told = cut(Array.from({ length: 40 }, () => new Uint8Array(4096).fill(0x61)));
    expect(told.reduce((sum, text) => sum + text.length, 0)).toBe(40 * 4096);
    expect(told.every((text) => text.length <= 32_768)).toBe(true);
    expect(cut([bytes('999999 <4>a\n<4>b\n')])).toEqual(['999999 <4>a', '<4>b']);
  });
});
