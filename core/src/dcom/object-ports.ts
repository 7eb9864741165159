/** How many ports a machine’s setting gives to objects (`5000-5100`, `3300`); parts that can’t be read count for nothing. */
export function portsIn(ranges: readonly string[]): number {
  return ranges.reduce((sum, range) => {
    const [, first, last] = /^\s*(\d{1,5})(?:\s*-\s*(\d{1,5}))?\s*$/.exec(range) ?? [];
    if (first === undefined) return sum;
    const [from, to] = [Number(first), Number(last ?? first)];
    return from >= 1 && to <= 65_535 && from <= to ? sum + to - from + 1 : sum;
  }, 0);
}
