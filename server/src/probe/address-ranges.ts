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
