/**
 * What a spreadsheet would take for a formula: a sign at the beginning, also in its full-width form, behind blanks, or behind
 * what breaks out of the cell. Names, subjects and messages come from other machines.
 */
const formula = /^(?:[\s\p{Cc}\p{Cf}]*[=+\-@＝＋－＠]|[\t\r\n])/u;

/** A text as it can stand in a cell: what would be a formula gets a quote in front. */
export const harmlessCell = (text: string): string => (formula.test(text) ? `'${text}` : text);

/** A text as it was before it was made harmless. */
export const cellText = (cell: string): string =>
  cell.startsWith("'") && formula.test(cell.slice(1)) ? cell.slice(1) : cell;

/** One line of CSV (RFC 4180), without its end; every text is made harmless, numbers stay numbers. */
export const csvLine = (cells: readonly (string | number)[]): string =>
  cells.map((cell) => (typeof cell === 'number' ? String(cell) : quoted(harmlessCell(cell)))).join(',');

/** Rows as CSV (RFC 4180). */
export const toCsv = (header: readonly string[], rows: readonly (readonly string[])[]): string =>
  [header, ...rows].map((row) => `${csvLine(row)}\r\n`).join('');

const quoted = (text: string): string => (/[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);
