/**
 * Sets of points of one dimension: half-open ranges `[from, to)`, sorted, disjoint and never touching. Points of one dimension
 * compare by `<`: numbers (ports, IPv4 addresses), bigints (IPv6 addresses, beyond all IPv4 ones) or texts (interfaces).
 */
export type Point = number | bigint | string;
export interface Range {
  readonly from: Point;
  /** Not in the range. */
  readonly to: Point;
}
export type Ranges = readonly Range[];

export const noPoints: Ranges = [];

/** Brings ranges in any order, overlapping or touching, into their one form. */
export function rangesOf(parts: Ranges): Ranges {
  if (parts.length < 2) return parts.filter(({ from, to }) => from < to);
  const sorted = parts.filter(({ from, to }) => from < to).sort((left, right) => compared(left.from, right.from));
  const merged: Range[] = [];
  for (const part of sorted) {
    const last = merged.at(-1);
    if (!last || last.to < part.from) merged.push(part);
    else if (last.to < part.to) merged[merged.length - 1] = { from: last.from, to: part.to };
  }
  return merged;
}

export const compared = (left: Point, right: Point): number => (left < right ? -1 : right < left ? 1 : 0);

export function cutRanges(left: Ranges, right: Ranges): Ranges {
  const [first] = left;
  const [other] = right;
  if (!first || !other) return noPoints;
  if (left.length === 1 && right.length > 8) return cutOne(first, right);
  if (right.length === 1 && left.length > 8) return cutOne(other, left);
  const both: Range[] = [];
  let at = 0;
  let beside = 0;
  for (;;) {
    const one = left[at];
    const two = right[beside];
    if (!one || !two) return both;
    const from = one.from < two.from ? two.from : one.from;
    const to = one.to < two.to ? one.to : two.to;
    if (from < to) both.push({ from, to });
    if (one.to < two.to) at += 1;
    else beside += 1;
  }
}

/** One range with many: those are searched by halves. */
function cutOne(one: Range, many: Ranges): Ranges {
  const both: Range[] = [];
  for (let at = firstBeyond(many, one.from); at < many.length; at += 1) {
    const part = many[at];
    if (!part || !(part.from < one.to)) break;
    both.push({ from: part.from < one.from ? one.from : part.from, to: part.to < one.to ? part.to : one.to });
  }
  return both;
}

/** The index of the first range that ends beyond a point. */
function firstBeyond(ranges: Ranges, point: Point): number {
  let low = 0;
  let high = ranges.length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    const range = ranges[middle];
    if (range && point < range.to) high = middle;
    else low = middle + 1;
  }
  return low;
}

export const uniteRanges = (left: Ranges, right: Ranges): Ranges => rangesOf([...left, ...right]);

/** What is in the first and not in the second. */
export function subtractRanges(left: Ranges, right: Ranges): Ranges {
  if (left.length === 0 || right.length === 0) return left;
  const kept: Range[] = [];
  for (const range of left) {
    let { from } = range;
    for (let at = firstBeyond(right, from); at < right.length; at += 1) {
      const gone = right[at];
      if (!gone || !(gone.from < range.to)) break;
      if (from < gone.from) kept.push({ from, to: gone.from });
      if (from < gone.to) from = gone.to;
    }
    if (from < range.to) kept.push({ from, to: range.to });
  }
  return kept;
}

export function hasPoint(ranges: Ranges, point: Point): boolean {
  const range = ranges[firstBeyond(ranges, point)];
  return range !== undefined && !(point < range.from);
}

export const sameRanges = (left: Ranges, right: Ranges): boolean =>
  left === right ||
  (left.length === right.length &&
    left.every((range, index) => range.from === right[index]?.from && range.to === right[index].to));

/** Whether all of the first is in the second. */
export const isWithin = (left: Ranges, right: Ranges): boolean => subtractRanges(left, right).length === 0;

export const pointRange = (point: number | bigint): Range => ({
  from: point,
  to: typeof point === 'bigint' ? point + 1n : point + 1,
});
/** Both ends are in it. */
export const numbersFrom = (first: number, last: number): Range => ({ from: first, to: last + 1 });
export const onePoint = (point: number | bigint): Ranges => [pointRange(point)];

/** The one point of ranges that hold no other; null: none, or several. */
export function onlyPoint(ranges: Ranges): Point | null {
  const [range] = ranges;
  if (!range || ranges.length > 1) return null;
  const { from, to } = range;
  if (typeof from === 'number' && typeof to === 'number') return to - from === 1 ? from : null;
  if (typeof from === 'bigint' && typeof to === 'bigint') return to - from === 1n ? from : null;
  return typeof from === 'string' && to === `${from}\0` ? from : null;
}
