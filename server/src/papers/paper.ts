import type { Content, TableCell } from 'pdfmake/interfaces.js';
import { csvLine } from '@loyal-hinge/core';
import { pdfOf, pdfTable, pdfText } from './pdf.js';

/** A part of a paper, in the order in which it is read. */
export type Part =
  | { readonly kind: 'heading'; readonly text: string }
  | { readonly kind: 'text'; readonly text: string; readonly isFaint?: boolean }
  | {
      readonly kind: 'table';
      readonly columns: readonly string[];
      readonly rows: readonly (readonly string[])[];
      /** Stands instead of a table without rows, where somebody reads it. */
      readonly empty: string;
    };

/** What people read: a table without rows is a sentence. */
const asRead = (part: Part): Part =>
  part.kind === 'table' && part.rows.length === 0 ? { kind: 'text', text: part.empty, isFaint: true } : part;

/** Something that is handed to a person: what it is about, what it says in a sentence, and the rest. */
export interface Paper {
  readonly title: string;
  readonly says: string;
  /** When and for whom it was made. */
  readonly made: string;
  readonly plant: string;
  readonly madeBy: string;
  readonly parts: readonly Part[];
}

const letters: Readonly<Record<string, string>> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  "'": '&#39;',
};
const escaped = (text: string): string => text.replace(/[&<>"']/g, (letter) => letters[letter] ?? letter);

const style = `
  body { font: 15px/1.45 'Atkinson Hyperlegible Next', system-ui, sans-serif; color: #1d2430; margin: 2.5rem auto; max-width: 62rem; padding: 0 1.5rem; }
  h1 { font-size: 1.6rem; margin: 0 0 .3rem; } h2 { font-size: 1.15rem; margin: 1.6rem 0 .4rem; }
  .says { font-weight: 700; margin: 0 0 .2rem; } .faint { color: #5a6170; }
  p { margin: .3rem 0; white-space: pre-line; }
  table { border-collapse: collapse; width: 100%; font-size: .92rem; } th { text-align: left; }
  th, td { padding: .3rem .8rem .3rem 0; border-bottom: 1px solid #d9d4c7; vertical-align: top; }
  @media print { body { margin: 0; max-width: none; padding: 0; } tr { break-inside: avoid; } h2 { break-after: avoid; } }
`;

/** As a page that needs nothing else: no script, and nothing is fetched. */
export function paperAsHtml({ title, says, made, parts }: Paper): string {
  const body = parts.map(asRead).map((part) => {
    if (part.kind === 'heading') return `<h2>${escaped(part.text)}</h2>`;
    if (part.kind === 'text') return `<p${part.isFaint ? ' class="faint"' : ''}>${escaped(part.text)}</p>`;
    const head = part.columns.map((column) => `<th scope="col">${escaped(column)}</th>`).join('');
    const rows = part.rows.map((row) => `<tr>${row.map((cell) => `<td>${escaped(cell)}</td>`).join('')}</tr>`);
    return `<table><thead><tr>${head}</tr></thead><tbody>${rows.join('\n')}</tbody></table>`;
  });
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'">
<title>${escaped(title)}</title>
<style>${style}</style>
</head>
<body>
<h1>${escaped(title)}</h1>
<p class="says">${escaped(says)}</p>
<p class="faint">${escaped(made)}</p>
${body.join('\n')}
</body>
</html>
`;
}

/** Its tables, each with its heading above it and an empty line behind it. */
export function paperAsCsv({ parts }: Paper): string {
  const lines: string[] = [];
  let heading = '';
  for (const part of parts) {
    if (part.kind === 'heading') heading = part.text;
    if (part.kind !== 'table') continue;
    if (lines.length > 0) lines.push('');
    if (heading !== '') lines.push(csvLine([heading]));
    lines.push(csvLine(part.columns), ...part.rows.map((row) => csvLine(row)));
  }
  return lines.map((line) => `${line}\r\n`).join('');
}

/** Is never broken into lines. */
const moment = /^\d{4}-\d\d-\d\d \d\d:\d\d$/;

export function paperAsPdf({ title, says, made, plant, madeBy, parts }: Paper): Promise<Uint8Array> {
  const isWide = parts.some((part) => part.kind === 'table' && part.columns.length > 6);
  const body = parts.map(asRead).map((part): Content => {
    if (part.kind === 'heading') return pdfText(part.text, { fontSize: 12, bold: true, margin: [0, 12, 0, 3] });
    if (part.kind === 'text')
      return pdfText(part.text, { margin: [0, 0, 0, 3], ...(part.isFaint ? { color: '#555' } : {}) });
    const longest = part.columns.map((_, column) => Math.max(...part.rows.map((row) => row[column]?.length ?? 0), 0));
    const widths = longest.map((length) => (length > 24 ? ('*' as const) : ('auto' as const)));
    return pdfTable(
      part.columns,
      widths,
      part.rows.map((row) => row.map((cell): TableCell => pdfText(cell, { noWrap: moment.test(cell) }) as TableCell)),
    );
  });
  return pdfOf({ title, author: madeBy, plant, isWide }, [
    pdfText(title, { fontSize: 17, bold: true, margin: [0, 0, 0, 4] }),
    pdfText(says, { bold: true, margin: [0, 0, 0, 2] }),
    pdfText(made, { color: '#555', margin: [0, 0, 0, 8] }),
    ...body,
  ]);
}
