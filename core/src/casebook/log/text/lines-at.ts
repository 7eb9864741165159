import { isEvtx } from '../evtx/evtx-file.js';
import { decodedText, encodingOf } from './encoded-bytes.js';

export interface LineAt {
  /** Where it begins in the file, in bytes. */
  readonly position: number;
  readonly text: string;
}

const longestShown = 2000;

/**
 * Lines of a text file from a place on.
 * @param head the file’s first bytes, by which it is told how it is written
 * @param bytes what stands from the place on; its last line may be cut off
 * @param position where that is
 * @returns null: the file is no text
 */
export function linesAt(head: Uint8Array, bytes: Uint8Array, position: number, most: number): readonly LineAt[] | null {
  const { encoding } = encodingOf(head);
  if (isEvtx(head) || (encoding === 'utf-8' && bytes.includes(0))) return null;
  const unit = encoding === 'utf-8' ? 1 : 2;
  const lines: LineAt[] = [];
  for (let from = 0; from < bytes.length && lines.length < most;) {
    const end = lineEnd(bytes, from, unit, encoding === 'utf-16be' ? 1 : 0);
    const text = decodedText(bytes.subarray(from, end), encoding).replace(/[\r\n\ufeff]+/g, '');
    lines.push({
      position: position + from,
      text: text.length > longestShown ? `${text.slice(0, longestShown)}…` : text,
    });
    from = end + unit;
  }
  return lines;
}

/** Where the next line feed begins, or the bytes end. */
function lineEnd(bytes: Uint8Array, from: number, unit: number, own: number): number {
  for (let at = from; at + unit <= bytes.length; at += unit)
    if (bytes[at + (unit === 1 ? 0 : own)] === 10 && (unit === 1 || bytes[at + 1 - own] === 0)) return at;
  return bytes.length;
}
