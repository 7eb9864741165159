import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import type { Content, TDocumentDefinitions, TableCell } from 'pdfmake/interfaces.js';

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

export const pdfText = (words: string, more: object = {}): Content => ({ text: runsOf(words), ...more });

/** A table whose heading stands on every page. */
export const pdfTable = (
  headings: readonly string[],
  widths: readonly ('auto' | '*')[],
  rows: readonly TableCell[][],
): Content => ({
  table: {
    headerRows: 1,
    widths: [...widths],
    body: [headings.map((heading): TableCell => ({ text: runsOf(heading), bold: true })), ...rows],
    dontBreakRows: true,
    keepWithHeaderRows: 1,
  },
  layout: 'lightHorizontalLines',
});

/** What stands around the content. */
export interface PdfFrame {
  readonly title: string;
  readonly author: string;
  readonly plant: string;
  readonly isWide: boolean;
}

/** Pages of A4 with the plant and their number at their foot; nothing is fetched, and no file but the fonts is read. */
export async function pdfOf({ title, author, plant, isWide }: PdfFrame, content: Content[]): Promise<Uint8Array> {
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
    pageOrientation: isWide ? 'landscape' : 'portrait',
    pageMargins: [40, 44, 40, 44],
    info: { title, author, creator: 'Loyal Hinge' },
    defaultStyle: { font: 'Sans', fontSize: 9, lineHeight: 1.25 },
    content,
    footer: (page, pages) => ({
      columns: [
        pdfText(`Loyal Hinge, ${plant}`, { color: '#555' }),
        { text: `${page} of ${pages}`, alignment: 'right', color: '#555' },
      ],
      margin: [40, 14, 40, 0],
      fontSize: 8,
    }),
  };
  return new Uint8Array(await pdfmake.createPdf(definition).getBuffer());
}

const fontFolder = (): string =>
  join(dirname(createRequire(import.meta.url).resolve('@fontsource/atkinson-hyperlegible-next/package.json')), 'files');
