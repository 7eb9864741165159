import { valueTypes } from './registry.js';

/** A value to be written into a registry; `remove`: it is to go. */
export type WrittenValue =
  | { readonly name: string; readonly text: string }
  | { readonly name: string; readonly number: number }
  | { readonly name: string; readonly bytes: Uint8Array }
  | { readonly name: string; readonly texts: readonly string[] }
  | { readonly name: string; readonly remove: true };

export interface WrittenKey {
  /** From the root on. */
  readonly path: string;
  readonly values: readonly WrittenValue[];
  /** The key goes, with all below it. */
  readonly remove?: true;
}

const heading = 'Windows Registry Editor Version 5.00';
/** As long as a line becomes before it goes on in the next one. */
const longestLine = 80;

/**
 * The text of a file that puts keys and values into a machine’s registry, as its own exports are written: version 5, lines
 * that end with CR and LF. Such files are kept in UTF-16 ({@link registryFileBytes}).
 */
export function registryExportText(keys: readonly WrittenKey[]): string {
  const parts = keys.map(({ path, values, remove }) =>
    [remove ? `[-${path}]` : `[${path}]`, ...values.map(valueLines), ''].join('\r\n'),
  );
  return [heading, '', ...parts, ''].join('\r\n');
}

/** The bytes of such a file: UTF-16 with its mark. */
export function registryFileBytes(text: string): Uint8Array {
  const bytes = new Uint8Array(2 + 2 * text.length);
  const view = new DataView(bytes.buffer);
  view.setUint16(0, 0xfeff, true);
  for (let at = 0; at < text.length; at += 1) view.setUint16(2 + 2 * at, text.charCodeAt(at), true);
  return bytes;
}

function valueLines(value: WrittenValue): string {
  const start = value.name === '' ? '@=' : `"${escaped(value.name)}"=`;
  if ('remove' in value) return `${start}-`;
  if ('text' in value) return `${start}"${escaped(value.text)}"`;
  if ('number' in value) return `${start}dword:${(value.number >>> 0).toString(16).padStart(8, '0')}`;
  if ('bytes' in value) return hexLines(`${start}hex:`, value.bytes);
  return hexLines(`${start}hex(${valueTypes.texts}):`, textsBytes(value.texts));
}

const escaped = (text: string): string => text.replace(/[\\"]/g, '\\$&');

/** Each text with a zero behind it, and one more at the end. */
function textsBytes(texts: readonly string[]): Uint8Array {
  const letters = `${texts.map((text) => `${text}\0`).join('')}\0`;
  return registryFileBytes(letters).subarray(2);
}

function hexLines(start: string, bytes: Uint8Array): string {
  const lines: string[] = [];
  let line = start;
  bytes.forEach((byte, index) => {
    const isLast = index === bytes.length - 1;
    const next = `${byte.toString(16).padStart(2, '0')}${isLast ? '' : ','}`;
    // A line that goes on ends with a backslash.
    if (line.length + next.length + (isLast ? 0 : 1) > longestLine) {
      lines.push(`${line}\\`);
      line = '  ';
    }
    line += next;
  });
  return [...lines, line].join('\r\n');
}
