import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import type { Content, TDocumentDefinitions, TableCell } from 'pdfmake/interfaces.js';
import { byNumber, dayOf } from '@loyal-hinge/core';
import type { RightsWriter, RightsWriters } from '@loyal-hinge/contract';

/** What a report of who can write is about. */
export interface ReportSubject {
  readonly plant: string;
  /** Words or a pattern that the nodes fit; empty: all. */
  readonly find: string;
  /** null: all servers. */
  readonly server: string | null;
  readonly madeAt: string;
  readonly madeBy: string;
}

/** What fits the first font; letters of other languages are in the second one, and what is in neither is shown as a question mark. */
const latin = /[\u0020-\u00ff\u2013\u2014\u2018-\u201e\u2026\u20ac\u2212]/;
const latinExtended = /[\u0100-\u02ff\u1e00-\u1eff]/;

/** A text in runs of one font each. */
export function runsOf(text: string): { readonly text: string; readonly font: 'Sans' | 'Extended' }[] {
  const runs: { text: string; font: 'Sans' | 'Extended' }[] = [];
  for (const letter of text) {
    const font = latinExtended.test(letter) ? 'Extended' : 'Sans';
    const shown = font === 'Extended' || latin.test(letter) ? letter : '?';
    const last = runs.at(-1);
    if (last?.font === font) last.text += shown;
    else runs.push({ text: shown, font });
  }
  return runs;
}

const text = (words: string, more: object = {}): Content => ({ text: runsOf(words), ...more });

/** The report as a PDF: who can write here, what no link needs first, and of which servers nothing is known. */
export async function writersReport(
  { writers, total, unneeded, unnamed, unseen }: RightsWriters,
  subject: ReportSubject,
): Promise<Uint8Array> {
  const { default: pdfmake } = await import('pdfmake');
  const folder = fontFolder();
  const fileOf = (subset: string, weight: number): string =>
    join(folder, `atkinson-hyperlegible-next-${subset}-${weight}-normal.woff`);
  pdfmake.setUrlAccessPolicy(() => false);
  pdfmake.setLocalAccessPolicy((path: string) => path.startsWith(folder));
  pdfmake.setFonts({
    Sans: { normal: fileOf('latin', 400), bold: fileOf('latin', 700) },
    Extended: { normal: fileOf('latin-ext', 400), bold: fileOf('latin-ext', 700) },
  });
  const definition: TDocumentDefinitions = {
    pageSize: 'A4',
    pageOrientation: 'landscape',
    pageMargins: [40, 44, 40, 44],
    info: { title: titleOf(subject), author: subject.madeBy, creator: 'Loyal Hinge' },
    defaultStyle: { font: 'Sans', fontSize: 9, lineHeight: 1.25 },
    content: [
      text(titleOf(subject), { fontSize: 17, bold: true, margin: [0, 0, 0, 4] }),
      text(
        [
          byNumber(total, '# entry', '# entries'),
          unneeded === 0 ? 'all of it is needed by links' : `${unneeded} that no link needs`,
          ...(unnamed === 0 ? [] : [`${unnamed} without a name`]),
        ].join('; ') + '.',
        { bold: true, margin: [0, 0, 0, 2] },
      ),
      text(
        `By the newest snapshots of rights, as the servers answered then. Made on ${dayOf(subject.madeAt)} for ${subject.madeBy}.`,
        { color: '#555', margin: [0, 0, 0, 10] },
      ),
      ...(writers.length === 0 ? [text('Nobody is known to be able to write here.')] : [tableOf(writers)]),
      ...(total > writers.length
        ? [text(`${total - writers.length} more are not listed here.`, { margin: [0, 6, 0, 0] })]
        : []),
      ...(unseen.length === 0
        ? []
        : [
            text('Of these servers nothing is known, since no snapshot was taken', {
              bold: true,
              margin: [0, 12, 0, 2],
            }),
            text(unseen.map(({ server }) => server).join(', ')),
          ]),
    ],
    footer: (page, pages) => ({
      columns: [
        text(`Loyal Hinge, ${subject.plant}`, { color: '#555' }),
        { text: `${page} of ${pages}`, alignment: 'right', color: '#555' },
      ],
      margin: [40, 14, 40, 0],
      fontSize: 8,
    }),
  };
  return new Uint8Array(await pdfmake.createPdf(definition).getBuffer());
}

function titleOf({ plant, find, server }: ReportSubject): string {
  const where = [...(find === '' ? [] : [`to ${find}`]), `on ${server ?? 'all servers'}`].join(' ');
  return `Who can write ${where}: ${plant}`;
}

const headings = ['Who', 'Server', 'May write', 'Nodes', 'Needed by', 'As of'];

function tableOf(writers: readonly RightsWriter[]): Content {
  const head = headings.map((heading): TableCell => ({ text: heading, bold: true }));
  const rows = writers.map((row): TableCell[] => [
    text(row.identity, { bold: row.isAnonymous, ...(row.isAnonymous ? { color: '#a3272a' } : {}) }),
    text(row.server),
    text(row.pattern),
    { text: String(row.nodes), alignment: 'right' },
    row.neededBy.length === 0 ? { text: 'no link', color: '#8a5a00' } : text(row.neededBy.join(', ')),
    { text: row.seenAt === null ? '' : dayOf(row.seenAt) },
  ]);
  return {
    table: {
      headerRows: 1,
      widths: ['auto', 'auto', '*', 'auto', '*', 'auto'],
      body: [head, ...rows],
      dontBreakRows: true,
    },
    layout: 'lightHorizontalLines',
  };
}

const fontFolder = (): string =>
  join(dirname(createRequire(import.meta.url).resolve('@fontsource/atkinson-hyperlegible-next/package.json')), 'files');
