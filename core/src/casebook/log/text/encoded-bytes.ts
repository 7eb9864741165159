/** How a text file is written. */
export type Encoding = 'utf-8' | 'utf-16le' | 'utf-16be';

/** @returns by its first bytes, and how many of them are a mark and no text */
export function encodingOf(head: Uint8Array): { readonly encoding: Encoding; readonly markBytes: number } {
  if (head[0] === 0xff && head[1] === 0xfe) return { encoding: 'utf-16le', markBytes: 2 };
  if (head[0] === 0xfe && head[1] === 0xff) return { encoding: 'utf-16be', markBytes: 2 };
  if (head[0] === 0xef && head[1] === 0xbb && head[2] === 0xbf) return { encoding: 'utf-8', markBytes: 3 };
  /* Without a mark, letters of the Latin alphabet show by the zeros beside them. */
  if (head[0] !== 0 && head[1] === 0 && head[3] === 0) return { encoding: 'utf-16le', markBytes: 0 };
  if (head[0] === 0 && head[1] !== 0 && head[2] === 0) return { encoding: 'utf-16be', markBytes: 0 };
  return { encoding: 'utf-8', markBytes: 0 };
}

const strict = new TextDecoder('utf-8', { fatal: true });
const western = new TextDecoder('windows-1252');
const wide = { 'utf-16le': new TextDecoder('utf-16le'), 'utf-16be': new TextDecoder('utf-16be') };

/** Text of some bytes; what claims to be UTF-8 and is not was written by an older Windows. */
export function decodedText(bytes: Uint8Array, encoding: Encoding): string {
  if (encoding !== 'utf-8') return wide[encoding].decode(bytes);
  try {
    return strict.decode(bytes);
  } catch {
    return western.decode(bytes);
  }
}

/** Bytes of one letter of the Latin alphabet, and which of them holds it. */
export const unitOf = (encoding: Encoding): { readonly bytes: 1 | 2; readonly at: 0 | 1 } =>
  encoding === 'utf-8' ? { bytes: 1, at: 0 } : { bytes: 2, at: encoding === 'utf-16be' ? 1 : 0 };

/** Bytes that wait for those that follow, up to as many as may be held. */
export class Waiting {
  private held = new Uint8Array(1 << 12);
  private filled = 0;

  constructor(private readonly most: number) {}

  get length(): number {
    return this.filled;
  }
  get bytes(): Uint8Array {
    return this.held.subarray(0, this.filled);
  }

  /** @returns false where not all of them could be kept */
  add(bytes: Uint8Array): boolean {
    const count = Math.min(bytes.length, this.most - this.filled);
    if (this.filled + count > this.held.length) {
      const larger = new Uint8Array(Math.min(this.most, Math.max(this.filled + count, this.held.length * 2)));
      larger.set(this.bytes);
      this.held = larger;
    }
    this.held.set(bytes.subarray(0, count), this.filled);
    this.filled += count;
    return count === bytes.length;
  }

  clear(): void {
    this.filled = 0;
  }
}
