import { readElements, readStatements } from './rule-text.js';
import { NotRead, priorityNames } from './syntax.js';
import type { NftChain, NftRule, NftRuleSet, NftSet, NftTable } from './syntax.js';
import { endOfStatement, tokensOf } from './tokens.js';
import type { Token } from './tokens.js';

const families = new Set(['ip', 'ip6', 'inet', 'arp', 'bridge', 'netdev']);
/** What a table may hold that no verdict depends on. */
const keptApart = new Set(['counter', 'quota', 'limit', 'ct', 'secmark', 'synproxy', 'flowtable', 'tunnel']);
const whole = 'Give the whole output of “nft list ruleset”.';

type Made = {
  tables: NftTable[];
  chains: NftChain[];
  sets: NftSet[];
  rules: NftRule[];
  notes: { line: number; says: string }[];
};

/** Reads the output of `nft list ruleset`. @throws NotRead with the line and what to do */
export function readNftText(text: string): NftRuleSet {
  const tokens = tokensOf(text);
  const made: Made = { tables: [], chains: [], sets: [], rules: [], notes: [] };
  let at = 0;
  while (at < tokens.length) {
    const token = tokens[at];
    if (!token) break;
    if (token.kind === 'end-of-line' || token.text === ';') at += 1;
    else if (token.text === 'flush' && tokens[at + 1]?.text === 'ruleset') at = endOfStatement(tokens, at);
    else if (token.text === 'include')
      throw new NotRead(
        token.line,
        'This file includes another one. Give the output of “nft list ruleset”, which holds everything.',
      );
    else if (token.text === 'table') at = readTable(text, tokens, at, made);
    else throw new NotRead(token.line, `A table is expected here, not “${token.text}”. ${whole}`);
  }
  return made;
}

function readTable(text: string, tokens: readonly Token[], start: number, made: Made): number {
  let at = start + 1;
  let family = 'ip';
  if (families.has(tokens[at]?.text ?? '') && tokens[at + 1]?.text !== '{') {
    family = tokens[at]?.text ?? '';
    at += 1;
  }
  const name = tokens[at]?.text ?? '';
  at += 1;
  const line = tokens[start]?.line ?? 0;
  if (tokens[at]?.text !== '{') throw new NotRead(line, `Table “${name}” has no body. ${whole}`);
  const end = closing(tokens, at, `table “${name}”`);
  let isDormant = false;
  for (at += 1; at < end;) {
    const word = tokens[at]?.text ?? '';
    if (tokens[at]?.kind === 'end-of-line' || word === ';') at += 1;
    else if (word === 'flags') {
      const after = endOfStatement(tokens, at);
      isDormant ||= tokens.slice(at, after).some((token) => token.text === 'dormant');
      at = after;
    } else if (word === 'comment') at = endOfStatement(tokens, at);
    else if (word === 'chain') at = readChain(text, tokens, at, { family, table: name }, made);
    else if (word === 'set' || word === 'map') at = readSet(tokens, at, { family, table: name }, word === 'map', made);
    else if (keptApart.has(word)) at = past(tokens, at);
    else throw new NotRead(tokens[at]?.line ?? line, `“${word}” is not known in a table. ${whole}`);
  }
  made.tables.push({ family, name, isDormant });
  return end + 1;
}

/** Behind the block in braces that begins somewhere after `start`. */
function past(tokens: readonly Token[], start: number): number {
  let at = start;
  while (at < tokens.length && tokens[at]?.text !== '{') at += 1;
  return closing(tokens, at, `“${tokens[start]?.text ?? ''}”`) + 1;
}

function closing(tokens: readonly Token[], open: number, what: string): number {
  let depth = 0;
  for (let at = open; at < tokens.length; at += 1) {
    const token = tokens[at];
    if (token?.kind !== 'sign') continue;
    if (token.text === '{') depth += 1;
    if (token.text === '}') depth -= 1;
    if (depth === 0) return at;
  }
  throw new NotRead(tokens.at(-1)?.line ?? 0, `The listing ends inside ${what}: it is cut off. ${whole}`);
}

interface In {
  readonly family: string;
  readonly table: string;
}

function readChain(text: string, tokens: readonly Token[], start: number, place: In, made: Made): number {
  const name = tokens[start + 1]?.text ?? '';
  const open = start + 2;
  if (tokens[open]?.text !== '{') throw new NotRead(tokens[start]?.line ?? 0, `Chain “${name}” has no body. ${whole}`);
  const end = closing(tokens, open, `chain “${name}”`);
  let base = null as NftChain['base'];
  for (let at = open + 1; at < end;) {
    const token = tokens[at];
    const after = Math.min(endOfStatement(tokens, at), end);
    const words = tokens.slice(at, after);
    if (!token || words.length === 0) {
      at += 1;
      continue;
    }
    at = after;
    if (token.text === 'type' && words[2]?.text === 'hook') base = baseOf(words);
    else if (token.text === 'policy') base = base && { ...base, policy: words[1]?.text ?? '' };
    else if (token.text === 'devices' || token.text === 'device')
      base = base && { ...base, devices: words.slice(1).flatMap(nameIn) };
    else if (token.text === 'comment' && words.length === 2) continue;
    else {
      const last = words.at(-1);
      const written = text.slice(token.from, last?.to ?? token.to).replace(/\s+/g, ' ');
      made.rules.push({ ...place, chain: name, text: written, ...readStatements(words) });
    }
  }
  made.chains.push({ ...place, name, base });
  return end + 1;
}

const nameIn = ({ kind, text }: Token): readonly string[] => (kind === 'sign' || kind === 'end-of-line' ? [] : [text]);

/** `type filter hook input priority filter + 10`, with devices where it hangs at some. */
function baseOf(words: readonly Token[]): NonNullable<NftChain['base']> {
  const texts = words.map(({ text }) => text);
  const at = texts.indexOf('priority');
  const devicesAt = texts.findIndex((text) => text === 'device' || text === 'devices');
  const devices = devicesAt < 0 ? [] : words.slice(devicesAt + 1, at < devicesAt ? undefined : at).flatMap(nameIn);
  return {
    type: texts[1] ?? '',
    hook: texts[3] ?? '',
    priority: priorityIn(
      texts
        .slice(at + 1)
        .join('')
        .replace(/devices?.*/, ''),
      words[0]?.line ?? 0,
    ),
    policy: 'accept',
    devices,
  };
}

function priorityIn(text: string, line: number): number {
  const [, name, sign, number] = /^([a-z]+)?(?:([+-])?(\d+))?$/.exec(text) ?? [];
  const from = name === undefined ? 0 : priorityNames[name];
  if (from === undefined || (name === undefined && number === undefined))
    throw new NotRead(line, `“${text}” is no priority that is known.`);
  return from + (sign === '-' ? -1 : 1) * Number(number ?? 0);
}

function readSet(tokens: readonly Token[], start: number, place: In, isMap: boolean, made: Made): number {
  const name = tokens[start + 1]?.text ?? '';
  const open = start + 2;
  if (tokens[open]?.text !== '{') throw new NotRead(tokens[start]?.line ?? 0, `Set “${name}” has no body. ${whole}`);
  const end = closing(tokens, open, `set “${name}”`);
  let elements: NftSet['elements'] | null = [];
  for (let at = open + 1; at < end;) {
    const after = Math.min(endOfStatement(tokens, at), end);
    if (tokens[at]?.text === 'elements') {
      const body = tokens.slice(at + 3, after).filter(({ kind }) => kind !== 'end-of-line');
      elements = readElements(body.slice(0, -1));
    }
    at = Math.max(after, at + 1);
  }
  if (elements) made.sets.push({ ...place, name, elements, isMap });
  else made.notes.push({ line: tokens[start]?.line ?? 0, says: `The elements of “${name}” could not be read.` });
  return end + 1;
}
