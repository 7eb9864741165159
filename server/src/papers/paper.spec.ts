import { paperAsCsv, paperAsHtml, paperAsPdf } from './paper.js';
import type { Paper, Part } from './paper.js';

const paper = (...parts: readonly Part[]): Paper => ({
  title: 'Works: <the last 7 days>',
  says: 'The links could be used 99.0 % of the time. "One case" is open.',
  made: 'Made on 2026-11-20 02:10 UTC for ada & ben.',
  plant: 'Works',
  madeBy: 'ada',
  parts,
});
const table: Part = {
  kind: 'table',
  columns: ['Link', 'Usable'],
  rows: [
    ['Display to Furnace', '99.0 %'],
    ['=1+1', ''],
  ],
  empty: 'There is no link.',
};
const pagesIn = (pdf: Uint8Array): number => {
  const text = Buffer.from(pdf).toString('latin1');
  expect(text.slice(0, 5)).toBe('%PDF-');
  return Number(/\/Type \/Pages\s*\/Count (\d+)/.exec(text)?.[1] ?? /\/Count (\d+)/.exec(text)?.[1]);
};

describe('a paper', () => {
  it('is a page that fetches nothing, and in which no text becomes markup', () => {
    const html = paperAsHtml(paper({ kind: 'heading', text: 'Links' }, { kind: 'text', text: "it's <script>" }, table));
    expect(html).toContain('<h1>Works: &lt;the last 7 days&gt;</h1>');
    expect(html).toContain('&quot;One case&quot; is open.');
    expect(html).toContain('<p>it&#39;s &lt;script&gt;</p>');
    expect(html).toContain('<th scope="col">Usable</th>');
    expect(html).toContain('<td>Display to Furnace</td><td>99.0 %</td>');
    expect(html).not.toMatch(/<script|src=|href=/);
  });

  it('is its tables, each below its heading, in which no text becomes a formula', () => {
    const csv = paperAsCsv(paper({ kind: 'heading', text: 'Links' }, table, { kind: 'text', text: 'words' }, table));
    const block = "Links\r\nLink,Usable\r\nDisplay to Furnace,99.0 %\r\n'=1+1,\r\n";
    expect(csv).toBe(`${block}\r\n${block}`);
  });

  it('says in a sentence that a table has no rows, and keeps its columns for programs', () => {
    const bare = paper({ kind: 'table', columns: ['Link', 'Usable'], rows: [], empty: 'There is no link.' });
    expect(paperAsHtml(bare)).toContain('<p class="faint">There is no link.</p>');
    expect(paperAsHtml(bare)).not.toContain('<table>');
    expect(paperAsCsv(bare)).toBe('Link,Usable\r\n');
  });

  it('is a PDF of as many pages as it needs', async () => {
    expect(pagesIn(await paperAsPdf(paper(table)))).toBe(1);
    const rows = Array.from({ length: 200 }, (_, index) => [`Link ${index}`, 'Ωmega → 99.0 %']);
    expect(
      pagesIn(await paperAsPdf(paper({ kind: 'table', columns: ['Link', 'Usable'], rows, empty: '' }))),
    ).toBeGreaterThan(2);
    expect(pagesIn(await paperAsPdf(paper()))).toBe(1);
  });
});
