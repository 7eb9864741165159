import { NotRead } from './syntax.js';

export interface Token {
  readonly kind: 'word' | 'string' | 'sign' | 'end-of-line';
  readonly text: string;
  /** From 1. */
  readonly line: number;
  /** Offsets in the text. */
  readonly from: number;
  readonly to: number;
}

const spaces = /[ \t\r]/;
const signs = [
  '==',
  '!=',
  '<=',
  '>=',
  '<<',
  '>>',
  '{',
  '}',
  '(',
  ')',
  ',',
  ';',
  '=',
  '<',
  '>',
  '&',
  '|',
  '^',
  '!',
] as const;
/** `10.0.0.1:tcp dport map …`: what is looked up follows the address without a blank. */
const joinedSelector = /^(.*):(?:tcp|udp|udplite|sctp|dccp|th|ip|ip6|meta|iifname|oifname|numgen|jhash|symhash)$/;
const wordEnds = /[\s"{}(),;=<>&|^!#]/;

/**
 * Takes a listing apart. Names that the text defines (`define lan = …`) stand for what they mean.
 * @throws NotRead where a quote isn’t closed, or a name isn’t defined
 */
export function tokensOf(text: string): readonly Token[] {
  return withDefinitions(rawTokens(text));
}

function rawTokens(text: string): Token[] {
  const tokens: Token[] = [];
  let line = 1;
  let at = 0;
  const put = (kind: Token['kind'], from: number, to: number, written = text.slice(from, to)): void => {
    tokens.push({ kind, text: written, line, from, to });
    at = to;
  };
  while (at < text.length) {
    const letter = text.charAt(at);
    if (letter === '\n') {
      put('end-of-line', at, at + 1);
      line += 1;
    } else if (spaces.test(letter)) at += 1;
    else if (letter === '\\' && /^\\\r?\n/.test(text.slice(at, at + 3))) {
      at = text.indexOf('\n', at) + 1;
      line += 1;
    } else if (letter === '#') {
      const end = text.indexOf('\n', at);
      at = end < 0 ? text.length : end;
    } else if (letter === '"') {
      const end = text.indexOf('"', at + 1);
      if (end < 0) throw new NotRead(line, 'A quote is opened and never closed: the listing seems to be cut off.');
      const written = text.slice(at + 1, end);
      put('string', at, end + 1, written);
      line += written.split('\n').length - 1;
    } else {
      const sign = signs.find((each) => text.startsWith(each, at));
      if (sign) put('sign', at, at + sign.length);
      else {
        let end = at + 1;
        while (end < text.length && !wordEnds.test(text.charAt(end))) end += 1;
        if (end - at > 1 && text.charAt(end - 1) === ':' && text.charAt(end - 2) !== ':') end -= 1;
        const joined = joinedSelector.exec(text.slice(at, end));
        if (joined) {
          const colon = at + (joined[1]?.length ?? 0);
          if (colon > at) put('word', at, colon);
          put('word', colon, colon + 1);
        }
        put('word', at, end);
      }
    }
  }
  return tokens;
}

function withDefinitions(tokens: readonly Token[]): readonly Token[] {
  if (!tokens.some(({ kind, text }) => kind === 'word' && (text === 'define' || text.startsWith('$')))) return tokens;
  const known = new Map<string, readonly Token[]>();
  const read: Token[] = [];
  for (let at = 0; at < tokens.length; at += 1) {
    const token = tokens[at];
    if (!token) break;
    if (token.kind === 'word' && token.text === 'define' && tokens[at + 2]?.text === '=') {
      const end = endOfStatement(tokens, at);
      known.set(
        tokens[at + 1]?.text ?? '',
        tokens.slice(at + 3, end).flatMap((each) => meantBy(each, known)),
      );
      at = end;
    } else read.push(...meantBy(token, known));
  }
  return read;
}

function meantBy(token: Token, known: ReadonlyMap<string, readonly Token[]>): readonly Token[] {
  if (token.kind !== 'word' || !token.text.startsWith('$')) return [token];
  const meaning = known.get(token.text.slice(1));
  if (!meaning)
    throw new NotRead(
      token.line,
      `“${token.text}” is not defined in this file. Give the output of “nft list ruleset”, which has no such names.`,
    );
  return meaning.map((each) => ({ ...each, line: token.line, from: token.from, to: token.to }));
}

/** Where a statement ends: a line’s end or a semicolon outside all braces. */
export function endOfStatement(tokens: readonly Token[], start: number): number {
  let depth = 0;
  for (let at = start; at < tokens.length; at += 1) {
    const token = tokens[at];
    if (token?.kind === 'sign' && token.text === '{') depth += 1;
    if (token?.kind === 'sign' && token.text === '}') depth -= 1;
    if (depth < 0) return at;
    const isEnd = token?.kind === 'end-of-line' || (token?.kind === 'sign' && token.text === ';');
    if (depth === 0 && isEnd) return at;
  }
  return tokens.length;
}
