import { saveBlob } from './save-blob';

/** Writes rows as CSV (RFC 4180); cells that a spreadsheet would take for a formula are made harmless. */
export function toCsv(header: readonly string[], rows: readonly (readonly string[])[]): string {
  return [header, ...rows].map((row) => row.map(cell).join(',')).join('\r\n') + '\r\n';
}

function cell(text: string): string {
  const harmless = /^[=+\-@\t]/.test(text) ? `'${text}` : text;
  return /[",\r\n]/.test(harmless) ? `"${harmless.replaceAll('"', '""')}"` : harmless;
}

/** Hands a text to the browser as a file. */
export const saveFile = (name: string, type: string, text: string): void => saveBlob(name, new Blob([text], { type }));
