import ipaddr from 'ipaddr.js';

/** True where an address lies in one of the ranges (CIDR) that the plant has declared: nothing else is ever dialled. */
export function isDeclared(address: string, ranges: readonly string[]): boolean {
  if (!ipaddr.isValid(address)) return false;
  const parsed = ipaddr.process(address);
  return ranges.some((range) => {
    const [base, bits] = ipaddr.parseCIDR(range);
    return base.kind() === parsed.kind() && parsed.match([base, bits]);
  });
}

/** True for text such as `10.20.0.0/16`. */
export const isRange = (text: string): boolean => ipaddr.isValidCIDR(text);

/** The ranges that lie in both of two lists: of two that overlap, the smaller one. */
export const rangesInBoth = (ones: readonly string[], others: readonly string[]): readonly string[] => [
  ...new Set(
    ones.flatMap((one) =>
      others.flatMap((other) => (isWithin(one, other) ? [one] : isWithin(other, one) ? [other] : [])),
    ),
  ),
];

function isWithin(inner: string, outer: string): boolean {
  const [base, bits] = ipaddr.parseCIDR(inner);
  const [outerBase, outerBits] = ipaddr.parseCIDR(outer);
  return base.kind() === outerBase.kind() && bits >= outerBits && base.match([outerBase, outerBits]);
}
