/** The number with the fewest digits that is no further away than it may be. */
export function snapped(value: number, within: number): number {
  if (!Number.isFinite(value)) return value;
  if (Math.abs(value) <= within) return 0;
  for (let digits = 1; digits <= 12; digits += 1) {
    const shorter = Number(value.toPrecision(digits));
    if (Math.abs(shorter - value) <= within) return shorter;
  }
  return value;
}

/** How little a number takes for granted: 0 for one, 1 for a power of ten, 2 and 3 for one or two digits, 4 for any other. */
export function simplicityOf(value: number): number {
  if (value === 1 || value === 0) return 0;
  const digits = significantDigits(value);
  if (digits === '1') return 1;
  return digits.length <= 2 ? digits.length + 1 : 4;
}

const significantDigits = (value: number): string =>
  Math.abs(value).toExponential().replace(/e.*$/, '').replace('.', '').replace(/0+$/, '');
