import { timeAt } from './times.js';
import type { LogClock } from './times.js';

/**
 * How the lines of a log that no form is known of are to be read: a text with names in braces, such as
 * `{time} {level} [{program}] login of {who} from {from} failed: {text}`. What stands between names must stand in the line; a name takes
 * what lies up to it. Two blanks or more may stand for one. `{time}` takes a time as it is usually written, `{}` anything, unnamed.
 */
export interface ReadingRule {
  readonly pattern: string;
}

type Piece = { readonly kind: 'literal'; readonly text: string } | { readonly kind: 'name'; readonly name: string };

export type CompiledRule =
  { readonly ok: true; readonly rule: RuleReader } | { readonly ok: false; readonly at: number; readonly says: string };

const mostLetters = 1000;
const mostNames = 40;

/** @returns where the pattern is wrong, and why, or what reads by it */
export function compileReadingRule({ pattern }: ReadingRule): CompiledRule {
  if (pattern.length > mostLetters) return { ok: false, at: mostLetters, says: 'A pattern has at most 1,000 letters.' };
  const pieces: Piece[] = [];
  const names = new Set<string>();
  const wrong = (at: number, says: string): CompiledRule => ({ ok: false, at, says });
  let literal = '';
  for (let at = 0; at < pattern.length;) {
    const letter = pattern[at] ?? '';
    if ((letter === '{' || letter === '}') && pattern[at + 1] === letter) {
      literal += letter;
      at += 2;
    } else if (letter === '}') return wrong(at, 'A “}” without “{”; write “}}” for the letter itself.');
    else if (letter === '{') {
      const end = pattern.indexOf('}', at);
      const name = pattern.slice(at + 1, end);
      if (end < 0 || name.includes('{')) return wrong(at, 'A “{” without “}”; write “{{” for the letter itself.');
      if (!/^(?:[a-z][A-Za-z0-9]{0,30})?$/.test(name))
        return wrong(at + 1, 'A name has letters and digits, the first one small.');
      if (name !== '' && names.has(name)) return wrong(at + 1, `The name “${name}” stands twice.`);
      if (literal !== '') pieces.push({ kind: 'literal', text: literal });
      else if (pieces.at(-1)?.kind === 'name') return wrong(at, 'Something must stand between two names.');
      literal = '';
      names.add(name);
      pieces.push({ kind: 'name', name });
      at = end + 1;
    } else {
      literal += letter;
      at += 1;
    }
  }
  if (literal !== '') pieces.push({ kind: 'literal', text: literal });
  if (names.size === 0) return wrong(0, 'A pattern names at least one part, such as {text}.');
  if (names.size > mostNames) return wrong(0, `A pattern names at most ${mostNames} parts.`);
  return { ok: true, rule: new RuleReader(pieces) };
}

/** Reads lines by a rule. Each line is walked once: no pattern takes longer than its line is long. */
export class RuleReader {
  constructor(private readonly pieces: readonly Piece[]) {}

  /** @returns the parts by their names, `time` as ISO 8601 in UTC; null: the line doesn’t fit */
  read(line: string, clock: LogClock): Readonly<Record<string, string>> | null {
    const parts: Record<string, string> = {};
    let at = 0;
    for (let index = 0; index < this.pieces.length; index += 1) {
      const piece = this.pieces[index];
      if (piece?.kind === 'literal') {
        const end = literalAt(line, at, piece.text);
        if (end < 0) return null;
        at = end;
      } else if (piece) {
        const next = this.pieces[index + 1];
        const isTime = piece.name === 'time';
        const time = isTime ? timeAt(line.slice(at, at + 64), clock) : null;
        if (isTime && !time) return null;
        const end = time ? at + time.length : next?.kind === 'literal' ? findLiteral(line, at, next.text) : line.length;
        if (end < 0) return null;
        if (piece.name !== '') parts[piece.name] = time ? time.time : line.slice(at, end);
        at = end;
      }
    }
    return at === line.length ? parts : null;
  }
}

/** Behind a literal that stands at a place; negative: it doesn’t. A blank stands for one or more. */
function literalAt(line: string, from: number, text: string): number {
  let at = from;
  for (const letter of text) {
    if (letter !== ' ') {
      if (!line.startsWith(letter, at)) return -1;
      at += letter.length;
      continue;
    }
    const begin = at;
    while (line[at] === ' ' || line[at] === '\t') at += 1;
    if (at === begin) return -1;
  }
  return at;
}

function findLiteral(line: string, from: number, text: string): number {
  const first = text[0] ?? '';
  if (!text.includes(' ')) return line.indexOf(text, from);
  for (let at = from; at < line.length; at += 1) {
    const fits = first === ' ' ? line[at] === ' ' || line[at] === '\t' : line[at] === first;
    if (fits && literalAt(line, at, text) >= 0) return at;
  }
  return -1;
}
