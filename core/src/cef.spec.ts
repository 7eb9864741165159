import fc from 'fast-check';
import { cefLine } from './cef';

const line = (name: string, value: string): string =>
  cefLine({
    device: ['Marrowby', 'Works', '1'],
    kind: 'signed in',
    name,
    severity: 3,
    extension: [
      ['rt', 1795140600000],
      ['suser', value],
    ],
  });

describe('a line in the Common Event Format', () => {
  it('has a header of seven parts and keys with values', () => {
    expect(line('Signed in', 'ada')).toBe('CEF:0|Marrowby|Works|1|signed in|Signed in|3|rt=1795140600000 suser=ada');
  });

  it('keeps what would end a part, a value or the line', () => {
    expect(line('a|b\\c\nd', 'x=1 | y\\z\r\nnext')).toBe(
      'CEF:0|Marrowby|Works|1|signed in|a\\|b\\\\c d|3|rt=1795140600000 suser=x\\=1 | y\\\\z\\r\\nnext',
    );
  });

  it('is one line whose last value can be read back, whatever stands in it', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme' }), fc.string({ unit: 'grapheme' }), (name, value) => {
        const written = line(name, value);
        expect(written).not.toMatch(/[\r\n]/);
        const last = written.slice(written.lastIndexOf(' suser=') + 7);
        if (value.includes(' suser=')) return;
        const read = last.replace(/\\(.)/g, (_, letter: string) => ({ r: '\r', n: '\n' })[letter] ?? letter);
        expect(read).toBe(value);
      }),
    );
  });
});
