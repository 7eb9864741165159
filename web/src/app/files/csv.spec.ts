import { toCsv } from './csv';

describe('a table as CSV', () => {
  it('quotes what must be quoted, and makes formulas harmless', () => {
    expect(
      toCsv(
        ['a', 'b'],
        [
          ['x,y', 'say "so"'],
          ['=1+1', '-2'],
          ['line\nbreak', 'plain'],
        ],
      ),
    ).toBe('a,b\r\n"x,y","say ""so"""\r\n\'=1+1,\'-2\r\n"line\nbreak",plain\r\n');
  });
});
