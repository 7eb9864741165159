import fc from 'fast-check';
import { Batched } from './batched';

/** What was written, and in how many writes. */
function written(fill: (lines: Batched) => void): { readonly text: string; readonly writes: number } {
  const parts: string[] = [];
  const lines = new Batched({ write: (text) => parts.push(text) });
  fill(lines);
  lines.flush();
  return { text: parts.join(''), writes: parts.length };
}

describe('lines that are written many at a time', () => {
  it('come out as they went in, in their order, whatever letters and lengths they have', () => {
    const text = fc.oneof(fc.string({ unit: 'grapheme', maxLength: 200 }), fc.nat(70_000).map('ß'.repeat.bind('ß')));
    fc.assert(
      fc.property(fc.array(text, { maxLength: 30 }), (all) => {
        const { text: out } = written((lines) => all.forEach((one) => lines.line(one)));
        expect(out).toBe(all.map((one) => `${one}\n`).join(''));
      }),
      { numRuns: 100 },
    );
  });

  it('take few writes', () => {
    const { text, writes } = written((lines) => {
      for (let index = 0; index < 10_000; index += 1) lines.line('a line of some length');
    });
    expect(text).toHaveLength(220_000);
    expect(writes).toBeLessThanOrEqual(5);
  });

  it('have numbers in the midst of what stays the same', () => {
    const same = Buffer.from('at ...... o’clock, ', 'utf8');
    const { text } = written((lines) => {
      for (const value of [0, 7, 120_045, 999_999]) lines.addWithDigits(same, value, 3, 9);
    });
    expect(text).toBe('at 000000 o’clock, at 000007 o’clock, at 120045 o’clock, at 999999 o’clock, ');
    expect(same.toString('utf8')).toContain('......');
  });

  it('are nothing where nothing was added', () => {
    expect(written(() => undefined)).toEqual({ text: '', writes: 0 });
  });
});
