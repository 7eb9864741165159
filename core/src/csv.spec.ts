import fc from 'fast-check';
import { cellText, harmlessCell, toCsv } from './csv.js';

describe('a cell', () => {
  it.each([
    '=1+1',
    '+1',
    '-1',
    '@x',
    '\t=1',
    '\r=1',
    '\n=1',
    '\tx',
    '\rx',
    ' =1',
    '＝1+1',
    '＋1',
    '－1',
    '＠x',
    '\u200b=1',
    '\u0000=1',
  ])('that a spreadsheet would take for a formula gets a quote in front: %j', (text) =>
    expect(harmlessCell(text)).toBe(`'${text}`),
  );

  it.each(['Furnace', 'a=b', '1-2', "'quoted'", '', ' ', 'CN=Furnace, O=Works'])('stays as it is: %j', (text) =>
    expect(harmlessCell(text)).toBe(text),
  );

  it('comes back as it was, whatever it was', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: 'binary' }),
        (text) => cellText(harmlessCell(text)) === text || text.startsWith("'"),
      ),
    );
  });
});

describe('a file of rows', () => {
  it('keeps quotes, commas and line breaks within their cells', () => {
    expect(
      toCsv(
        ['a', 'b'],
        [
          ['x,y', 'say "hi"'],
          ['one\r\ntwo', '=1'],
        ],
      ),
    ).toBe('a,b\r\n"x,y","say ""hi"""\r\n"one\r\ntwo",\'=1\r\n');
  });
});
