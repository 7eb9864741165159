/** Reading of DER and PEM (RFC 7468): what a file holds, block by block. */

export interface PemBlock {
  readonly label: string;
  readonly der: Uint8Array;
}

export type PemFault = { readonly line: number; readonly says: string };
export type PemResult =
  { readonly ok: true; readonly blocks: readonly PemBlock[] } | { readonly ok: false; readonly fault: PemFault };

/**
 * Reads all PEM blocks of a text, in their order; text between the blocks is passed over.
 * A block that is not closed or not Base64 is a fault with its line: nothing of such a file is used.
 */
export function readPem(text: string): PemResult {
  const blocks: PemBlock[] = [];
  let open: { label: string; line: number; body: string } | null = null;
  for (const [index, raw] of text.split(/\r\n|\n|\r/).entries()) {
    const line = raw.trim();
    const begin = /^-----BEGIN ([A-Z0-9 ]+)-----$/.exec(line);
    const end = /^-----END ([A-Z0-9 ]+)-----$/.exec(line);
    if (begin) {
      if (open) return pemFault(index + 1, `a new block begins before “${open.label}” has ended`);
      open = { label: begin[1] ?? '', line: index + 1, body: '' };
    } else if (end) {
      if (!open) return pemFault(index + 1, 'a block ends that never began');
      if (open.label !== end[1]) return pemFault(index + 1, `“${open.label}” ends as “${end[1] ?? ''}”`);
      const der = decodeBase64(open.body);
      if (!der) return pemFault(open.line, `the block “${open.label}” is not Base64`);
      blocks.push({ label: open.label, der });
      open = null;
    } else if (open) {
      open.body += line;
    }
  }
  return open ? pemFault(open.line, `the block “${open.label}” never ends`) : { ok: true, blocks };
}

/** Writes one PEM block, 64 letters a line. */
export function writePem(label: string, der: Uint8Array): string {
  const body = encodeBase64(der).match(/.{1,64}/g) ?? [];
  return [`-----BEGIN ${label}-----`, ...body, `-----END ${label}-----`, ''].join('\n');
}

/** Base64 of RFC 4648 §4, with padding. */
export function encodeBase64(bytes: Uint8Array): string {
  let binary = '';
  for (const byte of bytes) binary += String.fromCharCode(byte);
  return btoa(binary);
}

/** Bytes of a Base64 text, or null where it is none. */
export function decodeBase64(text: string): Uint8Array | null {
  const tight = text.replace(/\s+/g, '');
  if (tight === '' || tight.length % 4 !== 0 || !/^[A-Za-z0-9+/]+={0,2}$/.test(tight)) return null;
  return Uint8Array.from(atob(tight), (letter) => letter.charCodeAt(0));
}

const pemFault = (line: number, says: string): PemResult => ({ ok: false, fault: { line, says } });

/**
 * Length in bytes of the DER element that begins at the start (X.690 §8.1.3), or null where there is none:
 * too short, of indefinite length, or longer than what is there.
 */
export function derElementLength(bytes: Uint8Array): number | null {
  const first = bytes[1];
  if (bytes.length < 2 || first === undefined) return null;
  if (first < 0x80) return within(2 + first, bytes);
  const count = first & 0x7f;
  if (count === 0 || count > 4 || bytes.length < 2 + count) return null;
  let length = 0;
  for (const byte of bytes.subarray(2, 2 + count)) length = length * 256 + byte;
  return within(2 + count + length, bytes);
}

const within = (length: number, bytes: Uint8Array): number | null => (length <= bytes.length ? length : null);

/** Splits a chain as it stands in an OPC UA message, certificate after certificate (Part 6 §6.2.6), or null where bytes are left over. */
export function splitDerChain(bytes: Uint8Array): readonly Uint8Array[] | null {
  const parts: Uint8Array[] = [];
  for (let rest = bytes; rest.length > 0;) {
    const length = rest[0] === 0x30 ? derElementLength(rest) : null;
    if (length === null) return null;
    parts.push(rest.slice(0, length));
    rest = rest.subarray(length);
  }
  return parts;
}
