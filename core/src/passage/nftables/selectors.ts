import { everyAddress, prefixRange, readAddress, readAddresses } from '../addresses.js';
import { familyRegion, regionOf, states, withPoints } from '../flow-set.js';
import type { Dimension, FlowSet, Region } from '../flow-set.js';
import { numbersFrom, onePoint, rangesOf } from '../ranges.js';
import type { Range, Ranges } from '../ranges.js';
import { icmpCodes, icmpTypes, portNumbers, portProtocols, protocol, protocolNumbers } from '../rule-set.js';
import { isList, isObject, only, textOf } from './syntax.js';
import type { Json } from './syntax.js';

/**
 * What the left side of a comparison reads from a packet, and how the values at its right are told there.
 */
export interface Selector {
  /** Packets that have such a field at all. */
  readonly base: FlowSet;
  readonly dimension: Dimension;
  /** null: this value is not known. */
  readonly points: (value: Json) => Ranges | null;
  /** Of flags: a list of values means each of them. */
  readonly isFlags?: true;
  /** The values of which the order means something. */
  readonly asNumber?: (value: Json) => number | null;
  readonly fromNumber?: (ranges: Ranges) => Ranges;
}

/** The same for every packet that is asked about; a comparison with it is decided at once. */
export interface Fixed {
  readonly base: FlowSet;
  readonly isTrue: (operator: string, right: Json) => boolean | null;
}

export type ReadSelector =
  | { readonly kind: 'selector'; readonly selector: Selector }
  | { readonly kind: 'fixed'; readonly fixed: Fixed }
  /** What it reads is not known here; both answers are possible. */
  | { readonly kind: 'not-told'; readonly why: string; readonly base: FlowSet }
  | { readonly kind: 'unknown'; readonly why: string };

const four = [familyRegion(4)];
const six = [familyRegion(6)];
const everything: FlowSet = [regionOf({})];
const ofProtocol = (...numbers: number[]): Region =>
  regionOf({ protocol: rangesOf(numbers.map((number) => numbersFrom(number, number))) });

const selector = (given: Selector): ReadSelector => ({ kind: 'selector', selector: given });
const notTold = (why: string, base: FlowSet = everything): ReadSelector => ({ kind: 'not-told', why, base });

/** Reads the left side of a comparison, or one part of a concatenation. */
export function readSelector(left: Json): ReadSelector {
  const [kind, body] = only(left) ?? ['', null];
  if (kind === 'numgen' || kind === 'jhash' || kind === 'symhash') return notTold('it takes turns among packets');
  if (!isObject(body)) return notTold('what it compares is not known');
  switch (kind) {
    case 'payload':
      return header(textOf(body['protocol']), textOf(body['field']));
    case 'meta':
      return meta(textOf(body['key']) ?? '');
    case 'ct':
      return connection(textOf(body['key']) ?? '', textOf(body['dir']));
    case 'fib':
      return fib(textOf(body['result']), JSON.stringify(body['flags'] ?? []));
    case 'exthdr':
    case 'rt':
    case 'ip option':
    case 'sctp chunk':
      return {
        kind: 'fixed',
        fixed: {
          base: everything,
          isTrue: (operator, right) => (right === false ? operator !== '!=' : operator === '!=' && right === true),
        },
      };
    case 'tcp option':
      return notTold('it looks at options of TCP', [ofProtocol(protocol.tcp)]);
    case 'socket':
      return notTold('it looks for a socket');
    default:
      return notTold(`it looks at “${kind}”`);
  }
}

function header(name: string | null, field: string | null): ReadSelector {
  if (name === null || field === null) return notTold('it looks at bytes of the packet');
  if (name === 'ip' || name === 'ip6') return ipHeader(name, field);
  if (name === 'icmp' || name === 'icmpv6') return icmp(name, field);
  if (name === 'th') {
    if (field === 'sport' || field === 'dport') return selector(portSelector(field, portProtocols));
    return notTold(`it looks at ${name} ${field}`);
  }
  const number = (protocol as Readonly<Record<string, number>>)[name];
  if (number !== undefined) {
    if (field === 'sport' || field === 'dport') return selector(portSelector(field, [number]));
    if (name === 'tcp' && field === 'flags') return tcpFlags(null);
    return notTold(`it looks at ${name} ${field}`, [ofProtocol(number)]);
  }
  const other = protocolNumbers[name];
  return notTold(`it looks at ${name} ${field}`, other === undefined ? everything : [ofProtocol(other)]);
}

function ipHeader(name: 'ip' | 'ip6', field: string): ReadSelector {
  const base = name === 'ip' ? four : six;
  const family = name === 'ip' ? 4 : 6;
  if (field === 'saddr' || field === 'daddr')
    return selector({
      base,
      dimension: field === 'saddr' ? 'source' : 'destination',
      points: (value) => addressPoints(value, family),
      asNumber: () => null,
    });
  if (field === 'protocol' || field === 'nexthdr') return selector({ ...protocolSelector, base });
  if (field === 'version')
    return { kind: 'fixed', fixed: { base, isTrue: (operator, right) => compare(operator, family, right) } };
  /* Packets are whole. */
  if (field === 'frag-off')
    return { kind: 'fixed', fixed: { base, isTrue: (operator, right) => compare(operator, 0, right) } };
  if (field === 'hdrlength')
    return { kind: 'fixed', fixed: { base, isTrue: (operator, right) => compare(operator, 5, right) } };
  return notTold(`it looks at ${name} ${field}`, base);
}

function compare(operator: string, left: number, right: Json): boolean | null {
  if (typeof right !== 'number') return null;
  switch (operator) {
    case '==':
      return left === right;
    case '!=':
      return left !== right;
    case '<':
      return left < right;
    case '>':
      return left > right;
    case '<=':
      return left <= right;
    case '>=':
      return left >= right;
    default:
      return null;
  }
}

export function addressPoints(value: Json, family: 4 | 6): Ranges | null {
  const range = addressRange(value);
  return range && (typeof range.from === 'bigint') === (family === 6) ? [range] : null;
}

function addressRange(value: Json): Range | null {
  if (typeof value === 'string') return value === '*' ? null : readAddresses(value);
  const [kind, body] = only(value) ?? ['', null];
  if (kind === 'prefix' && isObject(body) && typeof body['len'] === 'number') {
    const address = readAddress(textOf(body['addr']) ?? '');
    return address === null || body['len'] < 0 || body['len'] > (typeof address === 'bigint' ? 128 : 32)
      ? null
      : prefixRange(address, body['len']);
  }
  if (kind === 'range' && isList(body)) return readAddresses(`${String(body[0])}-${String(body[1])}`);
  return null;
}

/** Numbers, names and ranges of them. */
function numberPoints(value: Json, named: (name: string) => number | null, most: number): Ranges | null {
  const one = (each: Json | undefined): number | null => {
    const number = typeof each === 'number' ? each : typeof each === 'string' ? named(each) : null;
    return number !== null && Number.isInteger(number) && number >= 0 && number <= most ? number : null;
  };
  const [kind, body] = only(value) ?? ['', null];
  if (kind === 'range' && isList(body)) {
    const [first, last] = [one(body[0]), one(body[1])];
    return first === null || last === null || last < first ? null : [numbersFrom(first, last)];
  }
  const number = one(value);
  return number === null ? null : onePoint(number);
}

const portNamed = (name: string): number | null => portNumbers[name] ?? null;
function portSelector(field: 'sport' | 'dport', protocols: readonly number[]): Selector {
  return {
    base: [ofProtocol(...protocols)],
    dimension: field === 'sport' ? 'sourcePort' : 'destinationPort',
    points: (value) => numberPoints(value, portNamed, 65_535),
    asNumber: (value) => (typeof value === 'number' ? value : null),
  };
}

const protocolSelector: Selector = {
  base: everything,
  dimension: 'protocol',
  points: (value) => numberPoints(value, (name) => protocolNumbers[name.toLowerCase()] ?? null, 255),
  asNumber: (value) => (typeof value === 'number' ? value : null),
};

const icmpPart = 256;
function icmp(name: 'icmp' | 'icmpv6', field: string): ReadSelector {
  const family = name === 'icmp' ? 4 : 6;
  const base = [withPoints(familyRegion(family), 'protocol', onePoint(family === 4 ? protocol.icmp : protocol.icmpv6))];
  if (field === 'type')
    return selector({
      base,
      dimension: 'destinationPort',
      points: (value) => {
        const types = numberPoints(value, (word) => icmpTypes[family][word] ?? null, 255);
        return types && types.map(({ from, to }) => ({ from: Number(from) * icmpPart, to: Number(to) * icmpPart }));
      },
    });
  if (field === 'code')
    return selector({
      base,
      dimension: 'destinationPort',
      points: (value) => {
        const codes = numberPoints(value, (word) => icmpCodes[family][word] ?? null, 255);
        if (!codes) return null;
        return rangesOf(
          Array.from({ length: icmpPart }, (_, type) => type * icmpPart).flatMap((type) =>
            codes.map(({ from, to }) => ({ from: type + Number(from), to: type + Number(to) })),
          ),
        );
      },
    });
  return notTold(`it looks at ${name} ${field}`, base);
}

/** A name, or its beginning and `*`. */
export function interfacePoints(value: Json): Ranges | null {
  if (typeof value !== 'string') return null;
  if (value.endsWith('*') && !value.endsWith('\\*')) {
    const start = value.slice(0, -1);
    return [{ from: start, to: `${start}\u{10ffff}` }];
  }
  const name = value.replace('\\*', '*');
  return [{ from: name, to: `${name}\0` }];
}

function meta(key: string): ReadSelector {
  switch (key) {
    case 'iif':
    case 'iifname':
      return selector({ base: everything, dimension: 'inInterface', points: interfacePoints });
    case 'oif':
    case 'oifname':
      return selector({ base: everything, dimension: 'outInterface', points: interfacePoints });
    case 'l4proto':
      return selector(protocolSelector);
    case 'nfproto':
      return selector({
        base: everything,
        dimension: 'source',
        points: (value) => familyPoints(value, { ipv4: 4, ipv6: 6 }),
      });
    case 'protocol':
      return selector({
        base: everything,
        dimension: 'source',
        points: (value) => familyPoints(value, { ip: 4, ip6: 6 }),
      });
    case 'mark':
      return selector({
        base: everything,
        dimension: 'mark',
        points: (value) => numberPoints(value, () => null, 2 ** 32 - 1),
        asNumber: (value) => (typeof value === 'number' ? value : null),
      });
    default:
      return notTold(`it looks at meta ${key}`);
  }
}

function familyPoints(value: Json, names: Readonly<Record<string, 4 | 6>>): Ranges | null {
  const family =
    typeof value === 'string'
      ? names[value]
      : value === 2 || value === 0x0800
        ? 4
        : value === 10 || value === 0x86dd
          ? 6
          : undefined;
  return family === undefined ? null : everyAddress[family];
}

const connected = [numbersFrom(0, 1)];
function connection(key: string, direction: string | null): ReadSelector {
  if (direction !== null) return notTold(`it looks at the connection’s ${direction} ${key}`);
  switch (key) {
    case 'state':
      return selector({ base: everything, dimension: 'state', isFlags: true, points: statePoints });
    case 'status':
      return selector({
        base: [regionOf({ isTranslated: connected })],
        dimension: 'isTranslated',
        isFlags: true,
        points: (value) => (value === 'dnat' ? onePoint(1) : null),
      });
    case 'direction':
      return selector({
        base: [regionOf({ direction: connected })],
        dimension: 'direction',
        points: (value) =>
          value === 'original' || value === 0 ? onePoint(0) : value === 'reply' || value === 1 ? onePoint(1) : null,
      });
    default:
      return notTold(`it looks at ct ${key}`);
  }
}

/** No packet that is asked about is `related`. */
export function statePoints(value: Json): Ranges | null {
  if (typeof value !== 'string') return null;
  const state = value.toLowerCase();
  if (state === 'related') return [];
  const at = states.findIndex((each) => each === state);
  return at < 0 ? null : onePoint(at);
}

const syn = 0x02;
const ack = 0x10;
const flagBits: Readonly<Record<string, number>> = {
  fin: 1,
  syn,
  rst: 4,
  psh: 8,
  ack,
  urg: 0x20,
  ecn: 0x40,
  ece: 0x40,
  cwr: 0x80,
};

export function flagsIn(value: Json): number | null {
  if (typeof value === 'number') return value;
  if (typeof value === 'string') return flagBits[value.toLowerCase()] ?? null;
  const parts = isList(value) ? value : isObject(value) && isList(value['|']) ? value['|'] : null;
  if (!parts) return null;
  let all = 0;
  for (const part of parts) {
    const bits = flagsIn(part);
    if (bits === null) return null;
    all |= bits;
  }
  return all;
}

/** Flags of TCP: a connection opens with SYN, and goes on with ACK. */
export function tcpFlags(mask: number | null): ReadSelector {
  return {
    kind: 'selector',
    selector: {
      base: [ofProtocol(protocol.tcp)],
      dimension: 'segment',
      isFlags: true,
      points: (value) => {
        const bits = flagsIn(value);
        if (bits === null) return null;
        const fits = (flags: number): boolean => (mask === null ? flags === bits : (flags & mask) === bits);
        return rangesOf([syn, ack].flatMap((flags, index) => (fits(flags) ? [numbersFrom(index, index)] : [])));
      },
    },
  };
}

/** Segments with at least one of these flags. */
export const segmentsWith = (bits: number): Ranges =>
  rangesOf([syn, ack].flatMap((flags, index) => ((flags & bits) !== 0 ? [numbersFrom(index, index)] : [])));

function fib(result: string | null, flags: string): ReadSelector {
  if (result === 'type' && flags.includes('daddr'))
    return selector({
      base: everything,
      dimension: 'isLocal',
      points: (value) => (value === 'local' ? onePoint(1) : null),
    });
  return notTold('it asks the machine’s routes');
}
