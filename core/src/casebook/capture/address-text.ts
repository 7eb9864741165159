/**
 * An address as people write it: IPv6 with its longest row of zeros left out (RFC 5952).
 * @param count 4 or 16 bytes
 */
export function addressText(bytes: Uint8Array, from: number, count: number): string {
  if (count === 4) return bytes.subarray(from, from + 4).join('.');
  const groups = Array.from({ length: 8 }, (_, index) => {
    const at = from + 2 * index;
    return ((bytes[at] ?? 0) << 8) | (bytes[at + 1] ?? 0);
  });
  const isMapped = groups.slice(0, 5).every((group) => group === 0) && groups[5] === 0xffff;
  if (isMapped) return `::ffff:${bytes.subarray(from + 12, from + 16).join('.')}`;
  const { start, length } = longestZeros(groups);
  const text = (part: readonly number[]): string => part.map((group) => group.toString(16)).join(':');
  if (length < 2) return text(groups);
  return `${text(groups.slice(0, start))}::${text(groups.slice(start + length))}`;
}

function longestZeros(groups: readonly number[]): { readonly start: number; readonly length: number } {
  let best = { start: 0, length: 0 };
  for (let start = 0; start < groups.length; start += 1) {
    let length = 0;
    while (groups[start + length] === 0) length += 1;
    if (length > best.length) best = { start, length };
  }
  return best;
}
