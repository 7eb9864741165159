const table = Uint32Array.from({ length: 256 }, (_, byte) => {
  let word = byte;
  for (let bit = 0; bit < 8; bit += 1) word = (word & 1) === 1 ? 0xedb88320 ^ (word >>> 1) : word >>> 1;
  return word;
});

/** The check sum of Ethernet (IEEE 802.3 §3.2.9) over several parts, one after another. */
export function crc32(...parts: readonly Uint8Array[]): number {
  let word = 0xffffffff;
  for (const part of parts) for (const byte of part) word = (table[(word ^ byte) & 255] ?? 0) ^ (word >>> 8);
  return (word ^ 0xffffffff) >>> 0;
}
