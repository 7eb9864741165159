import type { Json } from './syntax.js';
import type { Token } from './tokens.js';

/** What a rule says from some token on is not known here. */
class Unknown extends Error {}

export interface ReadStatements {
  readonly statements: readonly Json[];
  /** From here on it could not be read. */
  readonly unread: string | null;
}

/** The statements of one rule, as the JSON of nftables has them. What comes after something unknown is not read. */
export function readStatements(tokens: readonly Token[]): ReadStatements {
  const reader = new Reader(tokens.filter(({ kind }) => kind !== 'end-of-line'));
  const statements: Json[] = [];
  while (!reader.isAtEnd) {
    const start = reader.at;
    try {
      statements.push(...reader.statement());
    } catch (error) {
      if (!(error instanceof Unknown)) throw error;
      return { statements, unread: reader.textFrom(start) };
    }
  }
  return { statements, unread: null };
}

/** The elements of a set or map, between its braces. null: they can’t be read. */
export function readElements(tokens: readonly Token[]): readonly Json[] | null {
  const reader = new Reader(tokens.filter(({ kind }) => kind !== 'end-of-line'));
  try {
    return reader.elements(null);
  } catch (error) {
    if (error instanceof Unknown) return null;
    throw error;
  }
}

const headers = new Set([
  'ip',
  'ip6',
  'tcp',
  'udp',
  'udplite',
  'sctp',
  'dccp',
  'th',
  'icmp',
  'icmpv6',
  'igmp',
  'ether',
  'vlan',
  'arp',
  'ah',
  'esp',
  'comp',
  'gre',
  'geneve',
  'vxlan',
]);
const extensionHeaders = new Set(['hbh', 'frag', 'dst', 'mh', 'exthdr', 'srh']);
/** Keys of `meta` that a listing writes without it. */
const bareMeta = new Set([
  'iif',
  'iifname',
  'iiftype',
  'iifgroup',
  'oif',
  'oifname',
  'oiftype',
  'oifgroup',
  'skuid',
  'skgid',
  'mark',
  'pkttype',
  'cpu',
  'rtclassid',
  'nftrace',
  'ibrname',
  'obrname',
  'cgroup',
  'time',
  'hour',
  'day',
  'l4proto',
  'nfproto',
  'protocol',
  'length',
  'priority',
  'sdif',
  'sdifname',
  'random',
  'secpath',
  'iifkind',
  'oifkind',
  'ibrvproto',
  'ibrpvid',
]);
const ended = { accept: null, drop: null, return: null, continue: null, notrack: null } as const;
const comparisons = new Set(['==', '!=', '<', '>', '<=', '>=', '!']);
const natFlags = new Set(['random', 'persistent', 'fully-random', 'prefix']);

class Reader {
  at = 0;
  constructor(private readonly tokens: readonly Token[]) {}

  get isAtEnd(): boolean {
    return this.at >= this.tokens.length;
  }

  textFrom(start: number): string {
    return this.tokens
      .slice(start)
      .map(({ kind, text }) => (kind === 'string' ? `"${text}"` : text))
      .join(' ');
  }

  statement(): readonly Json[] {
    const word = this.next();
    if (word in ended) return [{ [word]: null }];
    switch (word) {
      case 'jump':
      case 'goto':
        return [{ [word]: { target: this.next() } }];
      case 'counter':
        this.options({ packets: 1, bytes: 1, name: 1 });
        return [{ counter: null }];
      case 'comment':
        this.next();
        return [];
      case 'log':
        this.options({ prefix: 1, level: 1, group: 1, snaplen: 1, 'queue-threshold': 1, flags: 1 });
        while (this.takes(',')) this.next();
        return [{ log: null }];
      case 'limit':
        return [{ limit: this.untilStatement() }];
      case 'quota':
        return [{ quota: this.untilStatement() }];
      case 'reject':
        return [this.reject()];
      case 'dnat':
      case 'snat':
        return [this.translation(word)];
      case 'masquerade':
      case 'redirect':
        return [this.ownTranslation(word)];
      case 'queue':
      case 'tproxy':
      case 'synproxy':
      case 'fwd':
        return [{ [word]: this.untilStatement() }];
      case 'dup':
        return [{ dup: this.untilStatement() }];
      case 'flow':
        return [{ flow: this.untilStatement() }];
      case 'add':
      case 'update':
      case 'delete':
        return this.setStatement(word);
      default:
        this.at -= 1;
        return [this.matchOrChange()];
    }
  }

  private setStatement(word: string): readonly Json[] {
    const set = this.next();
    if (!set.startsWith('@')) throw new Unknown();
    this.expect('{');
    let depth = 1;
    const inside: string[] = [];
    while (depth > 0) {
      const text = this.next();
      if (text === '{') depth += 1;
      if (text === '}') depth -= 1;
      inside.push(text);
    }
    const isLimit = ['limit', 'quota', 'count'].some((each) => inside.includes(each));
    return [{ set: { op: word, set } }, ...(isLimit ? [{ limit: 'per element' }] : [])];
  }

  /** The rest of a statement that isn’t looked at closely: up to the next word that begins one. */
  private untilStatement(): string {
    const words: string[] = [];
    while (!this.isAtEnd && !statementStarts.has(this.peek() ?? '')) words.push(this.next());
    return words.join(' ');
  }

  private reject(): Json {
    if (!this.takes('with')) return { reject: null };
    const type = this.next();
    if (type === 'tcp') {
      this.expect('reset');
      return { reject: { type: 'tcp reset' } };
    }
    this.takes('type');
    return { reject: { type, expr: this.next() } };
  }

  /** `dnat ip to 10.0.0.1:80`, `dnat to tcp dport map { … }`, `snat to 10.0.0.1-10.0.0.9`. */
  private translation(word: string): Json {
    let family: string | null = null;
    if (this.peek() === 'ip' || this.peek() === 'ip6') {
      if (this.peek(1) === 'to' || this.peek(1) === 'addr' || this.peek(1) === 'prefix') family = this.next();
    }
    if (this.takes('addr')) {
      this.expect('.');
      this.expect('port');
    }
    const isPrefix = this.takes('prefix');
    this.expect('to');
    const target = this.target();
    while (natFlags.has(this.peek() ?? '')) {
      this.next();
      this.takes(',');
    }
    if (isPrefix) throw new Unknown();
    return { [word]: { ...(family === null ? {} : { family }), ...target } };
  }

  private target(): { readonly [name: string]: Json } {
    const start = this.at;
    const written = this.next();
    const direct = targetIn(written);
    if (direct) {
      if (direct['port'] === undefined && this.takes(':')) {
        const port = this.mapped();
        return { ...direct, port };
      }
      return direct;
    }
    this.at = start;
    const addr = this.mapped();
    if (this.takes(':')) return { addr, port: this.mapped() };
    return { addr };
  }

  /** A value, or one looked up: `tcp dport map { 80 : 10.0.0.1 }`. */
  private mapped(): Json {
    const word = this.peek() ?? '';
    if (!isSelector(word, this.peek(1))) return this.value();
    const key = this.selectors();
    this.expect('map');
    return { map: { key, data: this.setOrName(key) } };
  }

  private ownTranslation(word: string): Json {
    let port: Json | null = null;
    if (this.takes('to')) {
      if (this.takes(':')) port = this.mapped();
      else if (this.peek()?.startsWith(':')) port = portIn(this.next().slice(1));
      else port = this.mapped();
    }
    while (natFlags.has(this.peek() ?? '')) {
      this.next();
      this.takes(',');
    }
    return { [word]: port === null ? null : { port } };
  }

  private matchOrChange(): Json {
    const word = this.peek() ?? '';
    if ((word === 'meta' || word === 'ct') && this.peek(2) === 'set') {
      this.at += 1;
      const key = this.next();
      this.expect('set');
      return { mangle: { key: { [word]: { key } }, value: this.changed() } };
    }
    if (word === 'mark' && this.peek(1) === 'set') {
      this.at += 2;
      return { mangle: { key: { meta: { key: 'mark' } }, value: this.changed() } };
    }
    if (word === 'tcp' && this.peek(1) === 'option') return this.tcpOption();
    if (word === 'ct' && this.peek(1) === 'count') {
      this.at += 2;
      return { 'ct count': this.untilStatement() };
    }
    if (word === 'xt' || word === 'socket' || word === 'osf') throw new Unknown();
    const left = this.selectors();
    if (this.takes('vmap')) return { vmap: { key: left, data: this.setOrName(left) } };
    if (this.takes('set')) return { mangle: { key: left, value: this.changed() } };
    return { match: this.comparison(left) };
  }

  private comparison(left: Json): Json {
    const masked = this.takes('&') ? { '&': [left, this.maskValue()] } : null;
    const sign = this.peek() ?? '';
    const isSigned = comparisons.has(sign) && this.isSign();
    if (isSigned) this.at += 1;
    if (masked) return { op: isSigned ? sign : '==', left: masked, right: this.flagsOrValue(left) };
    const right = this.flagsOrValue(left);
    if (this.takes('/')) return { op: isSigned ? sign : '==', left: { '&': [left, this.flagsOrValue(left)] }, right };
    const isList = Array.isArray(right) || hasFlags(left);
    return { op: isSigned ? sign : isList && !isSetLike(right) ? 'in' : '==', left, right };
  }

  private maskValue(): Json {
    if (!this.takes('(')) return this.value();
    const flags: Json[] = [this.value()];
    while (this.takes('|')) flags.push(this.value());
    this.expect(')');
    return flags;
  }

  private flagsOrValue(left: Json): Json {
    const first = this.valueFor(left);
    if (this.peek() !== ',' && this.peek() !== '|') return first;
    const flags: Json[] = [first];
    while (this.takes(',') || this.takes('|')) flags.push(this.value());
    return flags;
  }

  private valueFor(left: Json): Json {
    if (this.peek() === '{' && this.isSign()) return this.setOrName(left);
    return this.concatValue();
  }

  private concatValue(): Json {
    const parts: Json[] = [this.value()];
    while (this.takes('.')) parts.push(this.value());
    return parts.length === 1 ? (parts[0] ?? null) : { concat: parts };
  }

  private setOrName(key: Json): Json {
    const word = this.peek() ?? '';
    if (word.startsWith('@')) return this.next();
    this.expect('{');
    const start = this.at;
    let depth = 1;
    while (depth > 0) {
      const text = this.next();
      if (this.lastIsSign && text === '{') depth += 1;
      if (this.lastIsSign && text === '}') depth -= 1;
    }
    return { set: new Reader(this.tokens.slice(start, this.at - 1)).elements(key) };
  }

  elements(_key: Json): readonly Json[] {
    const elements: Json[] = [];
    while (!this.isAtEnd) {
      const value = this.peek() === '*' ? this.next() : this.joinedFlags(this.concatValue());
      while (!this.isAtEnd && this.peek() !== ',' && this.peek() !== ':') {
        const word = this.next();
        if (word === 'comment' || word === 'timeout' || word === 'expires') this.next();
        else if (word === 'counter') this.options({ packets: 1, bytes: 1 });
        else throw new Unknown();
      }
      if (this.takes(':')) elements.push([value, this.verdictOrValue()]);
      else elements.push(value);
      if (!this.isAtEnd) this.expect(',');
    }
    return elements;
  }

  /** `syn | ack`: all of these. */
  private joinedFlags(first: Json): Json {
    if (this.peek() !== '|') return first;
    const flags: Json[] = [first];
    while (this.takes('|')) flags.push(this.value());
    return { '|': flags };
  }

  private verdictOrValue(): Json {
    const word = this.peek() ?? '';
    if (word in ended) return { [this.next()]: null };
    if (word === 'jump' || word === 'goto') return { [this.next()]: { target: this.next() } };
    const value = this.concatValue();
    if (this.peek() === 'comment') this.at += 2;
    return value;
  }

  private changed(): Json {
    const start = this.at;
    try {
      const selector = isSelector(this.peek() ?? '', this.peek(1)) ? this.selectors() : this.value();
      if (this.takes('map')) {
        this.setOrName(selector);
        return { other: 'map' };
      }
      let value: Json = selector;
      while (['&', '|', '^', '<<', '>>'].includes(this.peek() ?? '') && this.isSign()) {
        const sign = this.next();
        value = { [sign]: [value, this.value()] };
      }
      return value;
    } catch (error) {
      if (!(error instanceof Unknown)) throw error;
      this.at = start;
      return { other: this.untilStatement() };
    }
  }

  private tcpOption(): Json {
    this.at += 2;
    const [name, field] = [this.next(), this.next()];
    const left = { 'tcp option': { name, field } };
    if (this.takes('set')) return { mangle: { key: left, value: this.changed() } };
    return { match: this.comparison(left) };
  }

  private selectors(): Json {
    const parts = [this.selector()];
    while (this.takes('.')) parts.push(this.selector());
    return parts.length === 1 ? (parts[0] ?? null) : { concat: parts };
  }

  private selector(): Json {
    const word = this.next();
    if (headers.has(word)) return { payload: { protocol: word, field: this.next() } };
    if (word === 'meta') return { meta: { key: this.next() } };
    if (bareMeta.has(word)) return { meta: { key: word } };
    if (word === 'ct') return this.connection();
    if (word === 'fib') return this.fib();
    if (word.startsWith('@') && /^@(ll|nh|th|ih),\d+,\d+$/.test(word)) return { payload: { base: word } };
    if (word.startsWith('@')) {
      /* `@nh,96,32` falls into three words. */
      const base = word;
      const [offset, length] = this.takes(',') ? [this.next(), this.takes(',') ? this.next() : ''] : ['', ''];
      if (offset === '' || length === '') throw new Unknown();
      return { payload: { base, offset: Number(offset), len: Number(length) } };
    }
    if (word === 'numgen' || word === 'jhash' || word === 'symhash') {
      const words: string[] = [];
      while (
        !this.isAtEnd &&
        !['vmap', 'map', '==', '!=', '<', '>', '{'].includes(this.peek() ?? '') &&
        !/^\d+$/.test(words.at(-1) ?? '')
      )
        words.push(this.next());
      return { [word]: words.join(' ') };
    }
    if (word === 'rt' || extensionHeaders.has(word)) return { exthdr: { name: word, field: this.next() } };
    throw new Unknown();
  }

  private connection(): Json {
    const word = this.next();
    if (word !== 'original' && word !== 'reply') return { ct: { key: word } };
    const field = this.next();
    if (field === 'ip' || field === 'ip6') return { ct: { key: `${field} ${this.next()}`, dir: word } };
    return { ct: { key: field, dir: word } };
  }

  private fib(): Json {
    const flags = [this.next()];
    while (this.takes('.')) flags.push(this.next());
    return { fib: { result: this.next(), flags } };
  }

  /** One value: a number, a name, a prefix, a range. */
  private value(): Json {
    const token = this.tokens[this.at];
    if (!token || token.kind === 'sign') throw new Unknown();
    this.at += 1;
    if (token.kind !== 'string') return valueIn(token.text);
    /* Times of day: `"10:00"-"12:00"`. */
    return this.takes('-') ? { range: [token.text, this.value()] } : token.text;
  }

  private options(takes: Readonly<Record<string, number>>): void {
    for (let word = this.peek(); word !== null && word in takes; word = this.peek()) this.at += 1 + (takes[word] ?? 0);
  }

  private lastIsSign = false;
  private next(): string {
    const token = this.tokens[this.at];
    if (!token) throw new Unknown();
    this.at += 1;
    this.lastIsSign = token.kind === 'sign';
    return token.text;
  }

  private peek(ahead = 0): string | null {
    return this.tokens[this.at + ahead]?.text ?? null;
  }

  private isSign(): boolean {
    return this.tokens[this.at]?.kind === 'sign';
  }

  private takes(text: string): boolean {
    const token = this.tokens[this.at];
    if (token?.kind === 'string' || token?.text !== text) return false;
    this.at += 1;
    return true;
  }

  private expect(text: string): void {
    if (!this.takes(text)) throw new Unknown();
  }
}

const statementStarts = new Set([
  ...Object.keys(ended),
  'jump',
  'goto',
  'counter',
  'comment',
  'log',
  'limit',
  'quota',
  'reject',
  'dnat',
  'snat',
  'masquerade',
  'redirect',
  'queue',
  'tproxy',
  'synproxy',
  'fwd',
  'dup',
  'flow',
  'add',
  'update',
  'delete',
  'meta',
  'ct',
  'fib',
  ...headers,
  ...bareMeta,
]);

const isSelector = (word: string, next: string | null): boolean =>
  (headers.has(word) && next !== null && /^[a-z]/.test(next)) ||
  word === 'meta' ||
  word === 'ct' ||
  word === 'fib' ||
  word === 'numgen' ||
  word === 'jhash' ||
  word === 'symhash' ||
  (bareMeta.has(word) && next !== null);

const hasFlags = (left: Json): boolean => {
  const text = JSON.stringify(left);
  return (
    text.includes('"ct":{"key":"state"') || text.includes('"ct":{"key":"status"') || text.includes('"field":"flags"')
  );
};
const isSetLike = (right: Json): boolean =>
  (typeof right === 'object' && right !== null && !Array.isArray(right)) ||
  (typeof right === 'string' && right.startsWith('@'));

/** `10.0.0.1:80-90`, `[fd00::1]:80`, `10.0.0.1-10.0.0.9`, `:80`; null: none of these. */
function targetIn(written: string): { readonly [name: string]: Json } | null {
  if (written.startsWith(':') && !written.startsWith('::')) return { port: portIn(written.slice(1)) };
  const six = /^\[([0-9a-f:.]+)\](?:-\[([0-9a-f:.]+)\])?(?::([0-9-]+))?$/i.exec(written);
  const four = /^(\d{1,3}(?:\.\d{1,3}){3})(?:-(\d{1,3}(?:\.\d{1,3}){3}))?(?::([0-9-]+))?$/.exec(written);
  const bare = /^([0-9a-f:]*:[0-9a-f:.]*)(?:-([0-9a-f:.]+))?$/i.exec(written);
  const [, first, last, port] = six ?? four ?? bare ?? [];
  if (first === undefined) return null;
  return {
    addr: last === undefined ? first : { range: [first, last] },
    ...(port === undefined ? {} : { port: portIn(port) }),
  };
}

function portIn(text: string): Json {
  const value = valueIn(text);
  if (typeof value === 'number' || (typeof value === 'object' && value !== null)) return value;
  throw new Unknown();
}

function valueIn(text: string): Json {
  if (/^0x[0-9a-f]+$/i.test(text) || /^\d+$/.test(text)) return Number(text);
  const prefix = /^([0-9a-f.:]+)\/(\d{1,3})$/i.exec(text);
  if (prefix) return { prefix: { addr: prefix[1] ?? '', len: Number(prefix[2]) } };
  const range = /^([0-9a-f.:]+)-([0-9a-f.:]+)$/i.exec(text);
  if (range && /\d/.test(text) && !/^[a-f]+-[a-f]+$/i.test(text))
    return { range: [valueIn(range[1] ?? ''), valueIn(range[2] ?? '')] };
  return text;
}
