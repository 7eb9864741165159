import type { Content, TableCell } from 'pdfmake/interfaces.js';
import { byNumber, dayOf } from '@loyal-hinge/core';
import type { RightsWriter, RightsWriters } from '@loyal-hinge/contract';
import { pdfOf, pdfTable, pdfText as text } from '../papers/pdf.js';

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

/** The report as a PDF: who can write here, what no link needs first, and of which servers nothing is known. */
export async function writersReport(
  { writers, total, unneeded, unnamed, unseen }: RightsWriters,
  subject: ReportSubject,
): Promise<Uint8Array> {
  const { plant, madeBy } = subject;
  return pdfOf({ title: titleOf(subject), author: madeBy, plant, isWide: true }, [
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
  ]);
}

function titleOf({ plant, find, server }: ReportSubject): string {
  const where = [...(find === '' ? [] : [`to ${find}`]), `on ${server ?? 'all servers'}`].join(' ');
  return `Who can write ${where}: ${plant}`;
}

const headings = ['Who', 'Server', 'May write', 'Nodes', 'Needed by', 'As of'];

function tableOf(writers: readonly RightsWriter[]): Content {
  const rows = writers.map((row): TableCell[] => [
    text(row.identity, { bold: row.isAnonymous, ...(row.isAnonymous ? { color: '#a3272a' } : {}) }),
    text(row.server),
    text(row.pattern),
    { text: String(row.nodes), alignment: 'right' },
    row.neededBy.length === 0 ? { text: 'no link', color: '#8a5a00' } : text(row.neededBy.join(', ')),
    { text: row.seenAt === null ? '' : dayOf(row.seenAt) },
  ]);
  return pdfTable(headings, ['auto', 'auto', '*', 'auto', '*', 'auto'], rows);
}
