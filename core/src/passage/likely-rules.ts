import { dimensionAt } from './flow-set.js';
import type { FlowSet, Region } from './flow-set.js';
import type { Chain } from './rule-set.js';

/**
 * Which rules of a chain may match at all, by the outermost points of their first condition: a long chain is passed through
 * without looking closely at rules for other addresses and ports.
 */
const told = ['source', 'destination', 'protocol', 'destinationPort'] as const;
type Bounds = Float64Array;
const bounds = new WeakMap<Chain, Bounds>();
const fromRules = 16;
const width = told.length * 2;

/** The index of the next rule from `start` on that may match; the number of rules where none may. */
export function candidatesIn(chain: Chain, region: Region, start: number): number {
  const { length } = chain.rules;
  if (length < fromRules) return start;
  const of = bounds.get(chain) ?? measured(chain);
  const wanted = boundsOf([region]);
  const [source0 = 0, source1 = 0, target0 = 0, target1 = 0, protocol0 = 0, protocol1 = 0, port0 = 0, port1 = 0] =
    wanted;
  for (let at = start, place = start * width; at < length; at += 1, place += width) {
    if (
      (of[place] ?? 0) < target1 &&
      target0 < (of[place + 1] ?? 0) &&
      (of[place + 2] ?? 0) < source1 &&
      source0 < (of[place + 3] ?? 0) &&
      (of[place + 4] ?? 0) < port1 &&
      port0 < (of[place + 5] ?? 0) &&
      (of[place + 6] ?? 0) < protocol1 &&
      protocol0 < (of[place + 7] ?? 0)
    )
      return at;
  }
  return length;
}

function measured(chain: Chain): Bounds {
  const of = new Float64Array(chain.rules.length * width);
  chain.rules.forEach(({ steps: [first] }, index) => {
    const [source0 = 0, source1 = 0, target0 = 0, target1 = 0, protocol0 = 0, protocol1 = 0, port0 = 0, port1 = 0] =
      first?.kind === 'match' ? boundsOf(first.when) : everything;
    of.set([target0, target1, source0, source1, port0, port1, protocol0, protocol1], index * width);
  });
  bounds.set(chain, of);
  return of;
}

const everything: readonly number[] = told.flatMap(() => [Number.NEGATIVE_INFINITY, Number.POSITIVE_INFINITY]);

/** Big addresses as the nearest numbers, one step further out: bounds may be too wide, never too narrow. */
function boundsOf(flows: FlowSet): readonly number[] {
  return told.flatMap((name) => {
    let first = Number.POSITIVE_INFINITY;
    let last = Number.NEGATIVE_INFINITY;
    for (const region of flows) {
      const ranges = region[dimensionAt[name]];
      if (!ranges) return [Number.NEGATIVE_INFINITY, Number.POSITIVE_INFINITY];
      const [from, to] = [ranges[0]?.from, ranges.at(-1)?.to];
      if (from === undefined || to === undefined) continue;
      first = Math.min(first, typeof from === 'bigint' ? Number(from) * (1 - 2 ** -50) : Number(from));
      last = Math.max(last, typeof to === 'bigint' ? Number(to) * (1 + 2 ** -50) : Number(to));
    }
    return [first, last];
  });
}
