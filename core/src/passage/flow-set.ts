import { everyAddress } from './addresses.js';
import type { Family } from './addresses.js';
import { compared, cutRanges, onePoint, rangesOf, sameRanges, subtractRanges } from './ranges.js';
import type { Point, Range, Ranges } from './ranges.js';

/**
 * Flows: what a packet and its connection can be told by. Ports of ICMP: its type and code as one number (`type × 256 + code`)
 * in place of the destination’s port.
 */
export const dimensions = [
  'inInterface',
  'outInterface',
  'source',
  'destination',
  'protocol',
  'sourcePort',
  'destinationPort',
  /** {@link states} */
  'state',
  'mark',
  /** 1: the connection’s destination was translated; 2: there is no connection. */
  'isTranslated',
  /** 1: the destination, as it stands now, is an address of the machine itself. */
  'isLocal',
  /** 0: from whoever opened the connection; 1: the other way; 2: there is no connection. */
  'direction',
  /** Of TCP, 0: the SYN that opens a connection; 1: a packet of one that is open (ACK). */
  'segment',
  /** Of a Windows machine, {@link profiles}. */
  'profile',
] as const;
export type Dimension = (typeof dimensions)[number];

/** As conntrack tells them; `untracked` and `invalid` come by rules (notrack, chains before conntrack) alone. */
export const states = ['new', 'established', 'untracked', 'invalid'] as const;
export type FlowState = (typeof states)[number];
export const profiles = ['domain', 'private', 'public'] as const;
export type Profile = (typeof profiles)[number];

export const dimensionAt: Readonly<Record<Dimension, number>> = Object.fromEntries(
  dimensions.map((name, index) => [name, index]),
) as Record<Dimension, number>;

/** One box: of each dimension the points; null: all of them. */
export type Region = readonly (Ranges | null)[];
/** A union of boxes. Empty: no flow at all. */
export type FlowSet = readonly Region[];

export const noFlows: FlowSet = [];
const anyRegion: Region = dimensions.map(() => null);
export const allFlows: FlowSet = [anyRegion];

/** The box of what is given; what isn’t is open. */
export function regionOf(given: Partial<Readonly<Record<Dimension, Ranges>>>): Region {
  return dimensions.map((name) => given[name] ?? null);
}

/** How the first packet of a connection is told from all others: what no rule has touched yet. */
export const newConnection: Partial<Readonly<Record<Dimension, Ranges>>> = {
  state: onePoint(states.indexOf('new')),
  segment: onePoint(0),
  mark: onePoint(0),
  isTranslated: onePoint(0),
  direction: onePoint(0),
};

export const familyRegion = (family: Family): Region =>
  regionOf({ source: everyAddress[family], destination: everyAddress[family] });
/** All that can be: never from an address of one family to one of the other. */
export const possibleFlows: FlowSet = [familyRegion(4), familyRegion(6)];

export const pointsIn = (region: Region, dimension: Dimension): Ranges | null => region[dimensionAt[dimension]] ?? null;

export function withPoints(region: Region, dimension: Dimension, points: Ranges | null): Region {
  return region.with(dimensionAt[dimension], points);
}

/** null: they share nothing. The first itself where the second takes nothing away. */
export function cutRegions(left: Region, right: Region): Region | null {
  let cut: (Ranges | null)[] | null = null;
  for (let at = 0; at < dimensions.length; at += 1) {
    const theirs = right[at];
    if (!theirs) continue;
    const ours = left[at];
    if (ours === theirs) continue;
    const both = ours ? cutRanges(ours, theirs) : theirs;
    if (both.length === 0) return null;
    if (ours && sameRanges(both, ours)) continue;
    cut ??= [...left];
    cut[at] = both;
  }
  return cut ?? left;
}

/** What is in the first box and not in the second, as boxes that share nothing. */
export function subtractRegion(left: Region, right: Region): FlowSet {
  const shared = cutRegions(left, right);
  if (!shared) return [left];
  if (shared === left) return noFlows;
  const kept: Region[] = [];
  let rest: Region = left;
  for (let at = 0; at < dimensions.length; at += 1) {
    const theirs = right[at];
    if (!theirs) continue;
    const ours = rest[at] ?? everyPoint(at, rest);
    const outside = subtractRanges(ours, theirs);
    if (outside.length === 0) continue;
    kept.push(rest.with(at, outside));
    rest = rest.with(at, cutRanges(ours, theirs));
  }
  return kept;
}

const numbersBelow = (end: number): Ranges => [{ from: 0, to: end }];
const wholeOf: Readonly<Record<Dimension, Ranges>> = {
  inInterface: [{ from: '', to: '\u{10ffff}' }],
  outInterface: [{ from: '', to: '\u{10ffff}' }],
  source: rangesOf([...everyAddress[4], ...everyAddress[6]]),
  destination: rangesOf([...everyAddress[4], ...everyAddress[6]]),
  protocol: numbersBelow(256),
  sourcePort: numbersBelow(65_536),
  destinationPort: numbersBelow(65_536),
  state: numbersBelow(states.length),
  mark: numbersBelow(2 ** 32),
  isTranslated: numbersBelow(3),
  isLocal: numbersBelow(2),
  direction: numbersBelow(3),
  segment: numbersBelow(2),
  profile: numbersBelow(profiles.length),
};

/** All points of a dimension; of an address those of the other address’s family, where that is known. */
function everyPoint(at: number, region: Region): Ranges {
  const name = dimensions[at] ?? 'mark';
  if (name !== 'source' && name !== 'destination') return wholeOf[name];
  const other = region[dimensionAt[name === 'source' ? 'destination' : 'source']];
  const [first, last] = [other?.[0], other?.at(-1)];
  if (!first || !last || typeof first.from !== typeof last.from) return wholeOf[name];
  return everyAddress[typeof first.from === 'bigint' ? 6 : 4];
}

export const wholeDimension = (name: Dimension): Ranges => wholeOf[name];

export function cut(left: FlowSet, right: FlowSet): FlowSet {
  if (right === allFlows) return left;
  if (left === allFlows) return right;
  const both: Region[] = [];
  for (const one of left)
    for (const two of right) {
      const shared = cutRegions(one, two);
      if (shared) both.push(shared);
    }
  return both;
}

/** What is in the first and in no box of the second. */
export function subtract(left: FlowSet, right: FlowSet): FlowSet {
  let rest = left;
  for (const gone of right) {
    if (rest.length === 0) return rest;
    let hasChanged = false;
    const next: Region[] = [];
    for (const region of rest) {
      const kept = subtractRegion(region, gone);
      hasChanged ||= kept.length !== 1 || kept[0] !== region;
      for (const part of kept) next.push(part);
    }
    if (hasChanged) rest = next;
  }
  return rest;
}

/** All of both, as boxes that share nothing where those of the first share nothing. */
export const unite = (left: FlowSet, right: FlowSet): FlowSet => [
  ...left,
  ...right.reduce<Region[]>((added, region) => [...added, ...subtract(subtract([region], left), added)], []),
];

export const isEmpty = (flows: FlowSet): boolean => flows.length === 0;
export const isSubset = (left: FlowSet, right: FlowSet): boolean => isEmpty(subtract(left, right));
export const isSame = (left: FlowSet, right: FlowSet): boolean => isSubset(left, right) && isSubset(right, left);
/** All that can be and isn’t in it. */
export const complement = (flows: FlowSet): FlowSet => subtract(possibleFlows, flows);

/**
 * The one form of a set, whatever boxes it is given as: cut along the first dimension at every bound, each slice brought into
 * its one form along the next, and slices that hold the same joined again. Equal sets give equal texts by {@link keyOf}.
 */
export function canonical(flows: FlowSet): FlowSet {
  return slices(cut(flows, possibleFlows), 0).sort((left, right) => compared(keyOf([left]), keyOf([right])));
}

function slices(flows: FlowSet, at: number): Region[] {
  if (flows.length === 0) return [];
  if (at === dimensions.length) return [anyRegion];
  if (flows.every((region) => region[at] === null)) return slices(flows, at + 1);
  const name = dimensions[at] ?? 'mark';
  const groups = new Map<string, { readonly rest: Region[]; readonly ranges: Range[] }>();
  for (const slice of slicesAlong(flows, at, wholeOf[name])) {
    const rest = slices(slice.flows, at + 1);
    const key = keyOf(rest.sort((left, right) => compared(keyOf([left]), keyOf([right]))));
    const group = groups.get(key) ?? { rest, ranges: [] };
    group.ranges.push(slice.range);
    groups.set(key, group);
  }
  return [...groups.values()].flatMap(({ rest, ranges }) => {
    const points = rangesOf(ranges);
    const isWhole = sameRanges(points, wholeOf[name]);
    return rest.map((region) => (isWhole ? region : region.with(at, points)));
  });
}

function slicesAlong(flows: FlowSet, at: number, whole: Ranges): { range: Range; flows: FlowSet }[] {
  const bounds = new Set<Point>();
  for (const region of flows)
    for (const { from, to } of region[at] ?? whole) {
      bounds.add(from);
      bounds.add(to);
    }
  const sorted = [...bounds].sort(compared);
  return sorted.slice(0, -1).flatMap((from, index) => {
    const to = sorted[index + 1] ?? from;
    const range = { from, to };
    const inside = flows.flatMap((region) => {
      const points = region[at];
      if (points && cutRanges(points, [range]).length === 0) return [];
      return points || cutRanges(whole, [range]).length > 0 ? [region.with(at, null)] : [];
    });
    return inside.length === 0 ? [] : [{ range, flows: inside }];
  });
}

/** A set as text, for comparing canonical ones. */
export const keyOf = (flows: FlowSet): string =>
  flows
    .map((region) =>
      region.map((points) => (points ? points.map(({ from, to }) => `${from}~${to}`).join(',') : '*')).join('|'),
    )
    .join('\n');
