import { familyRegion, regionOf, subtract, withPoints } from '../flow-set.js';
import type { Dimension, FlowSet, Region } from '../flow-set.js';
import { readAddresses, readPorts } from '../addresses.js';
import type { Family } from '../addresses.js';
import { interfacePoints, statePoints, tcpFlags } from '../nftables/selectors.js';
import { numbersFrom, onePoint, rangesOf } from '../ranges.js';
import type { Range, Ranges } from '../ranges.js';
import { icmpTypes, portNumbers, protocol, protocolNumbers } from '../rule-set.js';
import type { RuleStep } from '../rule-set.js';
import type { Words } from './words.js';

/** Conditions of a rule of iptables, option by option (iptables(8), iptables-extensions(8)). */

/** Reads what follows an option. null: its value can’t be read. */
type ReadFlows = (words: Words, context: Context) => FlowSet | null;
export interface Context {
  readonly family: Family;
  /** As the rule has named it; null: any. */
  readonly protocol: number | null;
}

const anything: FlowSet = [regionOf({})];
const along = (dimension: Dimension, points: Ranges | null): FlowSet | null =>
  points && (points.length === 0 ? [] : [regionOf({ [dimension]: points })]);

const addresses =
  (dimension: Dimension): ReadFlows =>
  (words, { family }) =>
    along(
      dimension,
      listed(words.next(), (part) => ofFamily(readAddresses(part), family)),
    );

const ofFamily = (range: Range | null, family: Family): Range | null =>
  range && (typeof range.from === 'bigint') === (family === 6) ? range : null;

function listed(text: string, read: (part: string) => Range | null): Ranges | null {
  const ranges: Range[] = [];
  for (const part of text.split(',')) {
    const range = read(part.trim());
    if (!range) return null;
    ranges.push(range);
  }
  return rangesOf(ranges);
}

const interfaces =
  (dimension: Dimension): ReadFlows =>
  (words) =>
    along(dimension, interfacePoints(words.next().replace(/\+$/, '*')));

const port = (part: string): Range | null => {
  const named = portNumbers[part];
  if (named !== undefined) return numbersFrom(named, named);
  const [, first, last] = /^(\d*):(\d*)$/.exec(part) ?? [];
  if (first !== undefined && last !== undefined)
    return readPorts(`${first === '' ? '0' : first}-${last === '' ? '65535' : last}`);
  return readPorts(part);
};
const ports =
  (...wanted: readonly Dimension[]): ReadFlows =>
  (words) => {
    const ranges = listed(words.next(), port);
    return ranges && wanted.flatMap((dimension) => along(dimension, ranges) ?? []);
  };

/** Options that stand for themselves, whatever module brought them. */
export const flowOptions: Readonly<Record<string, ReadFlows>> = {
  '-s': addresses('source'),
  '--source': addresses('source'),
  '-d': addresses('destination'),
  '--destination': addresses('destination'),
  '-i': interfaces('inInterface'),
  '--in-interface': interfaces('inInterface'),
  '-o': interfaces('outInterface'),
  '--out-interface': interfaces('outInterface'),
  '--sport': ports('sourcePort'),
  '--source-port': ports('sourcePort'),
  '--dport': ports('destinationPort'),
  '--destination-port': ports('destinationPort'),
  '--sports': ports('sourcePort'),
  '--source-ports': ports('sourcePort'),
  '--dports': ports('destinationPort'),
  '--destination-ports': ports('destinationPort'),
  '--ports': ports('sourcePort', 'destinationPort'),
  '--src-range': addresses('source'),
  '--dst-range': addresses('destination'),
  '--state': connectionStates,
  '--ctstate': connectionStates,
  '--ctdir': (words) => {
    const direction = words.next().toUpperCase();
    return direction === 'ORIGINAL'
      ? along('direction', onePoint(0))
      : direction === 'REPLY'
        ? along('direction', onePoint(1))
        : null;
  },
  '--ctproto': (words) => along('protocol', protocolPoints(words.next())),
  '--syn': () => along('segment', onePoint(0)),
  '--tcp-flags': tcpFlagsOf,
  '--icmp-type': icmpType,
  '--icmpv6-type': icmpType,
  '--mark': () => null,
  '--dst-type': (words) => (words.next() === 'LOCAL' ? along('isLocal', onePoint(1)) : null),
  /* Packets are whole. */
  '-f': () => [],
  '--fragment': () => [],
};

export function protocolPoints(text: string): Ranges | null {
  if (text === 'all' || text === '0') return numberRange(0, 255);
  const number = /^\d+$/.test(text) ? Number(text) : protocolNumbers[text.toLowerCase()];
  return number === undefined || number > 255 ? null : onePoint(number);
}

const numberRange = (first: number, last: number): Ranges => [numbersFrom(first, last)];

function connectionStates(words: Words): FlowSet | null {
  const flows: Region[] = [];
  for (const name of words.next().split(',')) {
    const translated = name === 'DNAT' ? along('isTranslated', onePoint(1)) : null;
    const own = translated ?? along('state', statePoints(name));
    if (!own) return null;
    flows.push(...own);
  }
  return flows;
}

function tcpFlagsOf(words: Words): FlowSet | null {
  const [mask, wanted] = [words.next(), words.next()].map(flagNames);
  if (!mask || !wanted) return null;
  const all = { fin: 1, syn: 2, rst: 4, psh: 8, ack: 16, urg: 32 } as const;
  const sum = (names: readonly string[]): number =>
    names.reduce((total, name) => total | (all[name as keyof typeof all] ?? 0), 0);
  const read = tcpFlags(sum(mask));
  return read.kind === 'selector' ? along('segment', read.selector.points(sum(wanted))) : null;
}

function flagNames(text: string): readonly string[] | null {
  const names = text.toLowerCase().split(',');
  if (names.includes('all')) return ['fin', 'syn', 'rst', 'psh', 'ack', 'urg'];
  if (names.includes('none')) return [];
  return names.every((name) => ['fin', 'syn', 'rst', 'psh', 'ack', 'urg'].includes(name)) ? names : null;
}

function icmpType(words: Words, { family }: Context): FlowSet | null {
  const text = words.next();
  if (text === 'any' || text === '255') return anything;
  const [type = '', code] = text.split('/');
  const number = /^\d+$/.test(type) ? Number(type) : icmpTypes[family][type];
  if (number === undefined || number > 255) return null;
  if (code === undefined) return along('destinationPort', [{ from: number * 256, to: (number + 1) * 256 }]);
  return /^\d+$/.test(code) && Number(code) <= 255
    ? along('destinationPort', onePoint(number * 256 + Number(code)))
    : null;
}

/** What a condition asks of the packet’s protocol, beside its own value. */
const protocolOfOption: Readonly<Record<string, number>> = {
  '--icmp-type': protocol.icmp,
  '--icmpv6-type': protocol.icmpv6,
  '--syn': protocol.tcp,
  '--tcp-flags': protocol.tcp,
};

function markStep(text: string, isNot: boolean): RuleStep | null {
  const [value = Number.NaN, mask = 0xffffffff] = text.split('/').map(Number);
  return Number.isNaN(value) || Number.isNaN(mask) ? null : { kind: 'mark-bits', mask, values: [value >>> 0], isNot };
}

/** One condition as a step; turned round where a `!` stood before it. null: its value can’t be read. */
export function conditionStep(option: string, isNot: boolean, words: Words, context: Context): RuleStep | null {
  if (option === '--mark') return markStep(words.next(), isNot);
  const flows = flowOptions[option]?.(words, context);
  if (!flows) return null;
  const number = protocolOfOption[option];
  const base = [withPoints(familyRegion(context.family), 'protocol', number === undefined ? null : onePoint(number))];
  return {
    kind: 'match',
    when: isNot
      ? subtract(base, flows)
      : flows.flatMap((region) =>
          number === undefined ? [region] : [withPoints(region, 'protocol', onePoint(number))],
        ),
  };
}
