/**
 * A pattern for paths of items: parts divided by `/`. In a part `*` stands for any letters, `?` for one, `[1-12]` for a number
 * of a range and `[A-D]` for one letter of a range; `\` takes the meaning from the sign after it. A part `**` stands for any
 * number of parts, also for none.
 */
export interface ItemPattern {
  readonly text: string;
  readonly parts: readonly PatternPart[];
}

type PatternPart = 'any parts' | readonly Piece[];

type Piece =
  | { readonly kind: 'text'; readonly text: string }
  | { readonly kind: 'any' }
  | { readonly kind: 'one' }
  | { readonly kind: 'number'; readonly from: number; readonly to: number }
  | { readonly kind: 'letter'; readonly from: string; readonly to: string };

/** Longer ones nobody types. */
const longest = 500;
const mostParts = 64;

/** What is wrong with a pattern, in a sentence. */
export interface PatternFault {
  readonly says: string;
}
export const isPatternFault = (read: ItemPattern | PatternFault): read is PatternFault => 'says' in read;

/** Reads a pattern; never throws. */
export function itemPattern(text: string): ItemPattern | PatternFault {
  if (text.trim() === '') return { says: 'A path or a pattern is needed, such as Lehr/**/Temperature.' };
  if (text.length > longest) return { says: `A pattern has at most ${longest} letters.` };
  const parts: PatternPart[] = [];
  for (const part of splitParts(text)) {
    const read = part === '**' ? 'any parts' : piecesOf(part);
    if (typeof read === 'object' && 'says' in read) return read;
    // Two of them in a row say no more than one.
    if (read === 'any parts' && parts.at(-1) === 'any parts') continue;
    parts.push(read);
  }
  return parts.length > mostParts ? { says: `A pattern has at most ${mostParts} parts.` } : { text, parts };
}

/** A needed path read as a pattern; null: it is a path and nothing else. */
export function patternInPath(path: string): ItemPattern | null {
  if (!/[*?[\\]/.test(path)) return null;
  const read = itemPattern(path);
  return isPatternFault(read) ? null : read;
}

function splitParts(text: string): readonly string[] {
  const parts = [''];
  for (let at = 0; at < text.length; at += 1) {
    const sign = text[at] ?? '';
    if (sign === '/') parts.push('');
    else if (sign === '\\') {
      parts.push(`${parts.pop() ?? ''}${sign}${text[at + 1] ?? ''}`);
      at += 1;
    } else parts.push(`${parts.pop() ?? ''}${sign}`);
  }
  return parts;
}

function piecesOf(part: string): readonly Piece[] | PatternFault {
  if (part === '') return { says: 'A part between two strokes is empty.' };
  const pieces: Piece[] = [];
  const addText = (text: string): void => {
    const last = pieces.at(-1);
    if (last?.kind === 'text') pieces[pieces.length - 1] = { kind: 'text', text: last.text + text };
    else pieces.push({ kind: 'text', text });
  };
  for (let at = 0; at < part.length; at += 1) {
    const sign = part[at] ?? '';
    if (sign === '\\') {
      at += 1;
      addText(part[at] ?? '\\');
    } else if (sign === '*') {
      if (pieces.at(-1)?.kind !== 'any') pieces.push({ kind: 'any' });
    } else if (sign === '?') pieces.push({ kind: 'one' });
    else if (sign === '[') {
      const end = part.indexOf(']', at);
      const range = end < 0 ? null : rangeOf(part.slice(at + 1, end));
      if (!range)
        return { says: `“${part}” has a range that is none: write [1-12] or [A-D], or \\[ for the sign itself.` };
      pieces.push(range);
      at = end;
    } else addText(sign);
  }
  return pieces;
}

function rangeOf(text: string): Piece | null {
  const numbers = /^(\d{1,9})-(\d{1,9})$/.exec(text);
  if (numbers) {
    const [from, to] = [Number(numbers[1]), Number(numbers[2])];
    return from <= to ? { kind: 'number', from, to } : null;
  }
  const letters = /^(\p{L})-(\p{L})$/u.exec(text);
  const [from, to] = [letters?.[1] ?? '', letters?.[2] ?? ''];
  return letters && from <= to ? { kind: 'letter', from, to } : null;
}

/** Whether a path fits, its parts given. Takes time by the product of both lengths at most, whatever the pattern. */
export function fitsPattern({ parts }: ItemPattern, path: readonly string[]): boolean {
  // Which numbers of parts of the path the pattern so far may have used up.
  let reached = new Set([0]);
  for (const part of parts) {
    const next = new Set<number>();
    if (part === 'any parts') for (let at = Math.min(...reached); at <= path.length; at += 1) next.add(at);
    else for (const at of reached) if (at < path.length && fitsPart(part, path[at] ?? '')) next.add(at + 1);
    if (next.size === 0) return false;
    reached = next;
  }
  return reached.has(path.length);
}

/** Whether a path that begins so can fit: where not, nobody needs to look below it. */
export function mayFitBelow({ parts }: ItemPattern, path: readonly string[]): boolean {
  let reached = new Set([0]);
  for (const part of parts) {
    // What is left of the pattern may be used up by what stands below.
    if (part === 'any parts' || reached.has(path.length)) return true;
    const next = new Set<number>();
    for (const at of reached) if (at < path.length && fitsPart(part, path[at] ?? '')) next.add(at + 1);
    if (next.size === 0) return false;
    reached = next;
  }
  return false;
}

function fitsPart(pieces: readonly Piece[], text: string): boolean {
  let reached = new Set([0]);
  for (const piece of pieces) {
    const next = new Set<number>();
    if (piece.kind === 'any') for (let at = Math.min(...reached); at <= text.length; at += 1) next.add(at);
    else for (const at of reached) for (const end of endsOf(piece, text, at)) next.add(end);
    if (next.size === 0) return false;
    reached = next;
  }
  return reached.has(text.length);
}

function endsOf(piece: Exclude<Piece, { kind: 'any' }>, text: string, at: number): readonly number[] {
  switch (piece.kind) {
    case 'text':
      return text.startsWith(piece.text, at) ? [at + piece.text.length] : [];
    case 'one':
      return at < text.length ? [at + 1] : [];
    case 'letter': {
      const letter = text[at] ?? '';
      return letter >= piece.from && letter <= piece.to ? [at + 1] : [];
    }
    case 'number': {
      const digits = /^\d{1,9}/.exec(text.slice(at, at + 9))?.[0] ?? '';
      // A number ends where its digits end: [1-3] does not fit the first digit of 12.
      const isWhole = digits !== '' && !/\d/.test(text[at + digits.length] ?? '') && !/\d/.test(text[at - 1] ?? '');
      const value = Number(digits);
      return isWhole && value >= piece.from && value <= piece.to ? [at + digits.length] : [];
    }
  }
}

/** A path as a pattern that fits it alone. */
export const patternForPath = (path: readonly string[]): string =>
  path.map((part) => part.replace(/[\\*?[/]/g, '\\$&')).join('/');
