/** Reading of DER and PEM (RFC 7468): what a file holds, block by block. */

export interface PemBlock {
  readonly label: string;
  readonly der: Uint8Array;
}

export type PemFault = { readonly line: number; readonly says: string };
export type PemResult =
  | {
      readonly ok: true;
      readonly blocks: readonly PemBlock[];
      /** Blocks that are cut off or no Base64, beside those that could be read. */
      readonly passedOver: readonly PemFault[];
    }
  | { readonly ok: false; readonly fault: PemFault };

/** Labels of before RFC 7468 (§5.1, §7), by the one that it has for the same thing. */
const olderLabels: Readonly<Record<string, string>> = {
  'X509 CERTIFICATE': 'CERTIFICATE',
  'X.509 CERTIFICATE': 'CERTIFICATE',
  'TRUSTED CERTIFICATE': 'CERTIFICATE',
  CRL: 'X509 CRL',
  'X.509 CRL': 'X509 CRL',
  'NEW CERTIFICATE REQUEST': 'CERTIFICATE REQUEST',
};

/**
 * Reads all PEM blocks of a text, in their order; text between the blocks is passed over. A block that is not closed or not
 * Base64 is told with its line, and the others are read; where none can be, the first fault is the answer.
 * Older labels are given as those of RFC 7468.
 */
export function readPem(text: string): PemResult {
  const blocks: PemBlock[] = [];
  const faults: PemFault[] = [];
  let open: { label: string; line: number; body: string } | null = null;
  for (const [index, raw] of text.split(/\r\n|\n|\r/).entries()) {
    const line = raw.replace(/^\ufeff/, '').trim();
    const begin = /^-----BEGIN ([A-Z0-9. ]+)-----$/.exec(line);
    const end = /^-----END ([A-Z0-9. ]+)-----$/.exec(line);
    if (begin) {
      if (open) faults.push({ line: index + 1, says: `a new block begins before “${open.label}” has ended` });
      open = { label: begin[1] ?? '', line: index + 1, body: '' };
    } else if (end) {
      const read: PemBlock | PemFault = open
        ? closed(open, end[1] ?? '', index + 1)
        : { line: index + 1, says: 'a block ends that never began' };
      if ('der' in read) blocks.push(read);
      else faults.push(read);
      open = null;
    } else if (open) {
      open.body += line;
    }
  }
  if (open) faults.push({ line: open.line, says: `the block “${open.label}” never ends` });
  const [first] = faults;
  return first && blocks.length === 0 ? { ok: false, fault: first } : { ok: true, blocks, passedOver: faults };
}

function closed(open: { label: string; line: number; body: string }, label: string, line: number): PemBlock | PemFault {
  if (open.label !== label) return { line, says: `“${open.label}” ends as “${label}”` };
  const der = decodeBase64(open.body);
  if (!der) return { line: open.line, says: `the block “${label}” is not Base64` };
  // Behind a trusted certificate stands what some programs trust it for: that is not the certificate’s.
  const length = label === 'TRUSTED CERTIFICATE' ? derElementLength(der) : null;
  return { label: olderLabels[label] ?? label, der: length === null ? der : der.slice(0, length) };
}

/** The text that a file holds: UTF-8 or UTF-16 by its byte order mark or its zeros, and otherwise letter by letter. */
export function textOf(bytes: Uint8Array): string {
  return new TextDecoder(encodingOf(bytes)).decode(bytes);
}

function encodingOf([first, second, third]: Uint8Array): string {
  if (first === 0xef && second === 0xbb && third === 0xbf) return 'utf-8';
  if ((first === 0xff && second === 0xfe) || (first !== 0 && second === 0)) return 'utf-16le';
  if ((first === 0xfe && second === 0xff) || (first === 0 && second !== 0)) return 'utf-16be';
  return 'latin1';
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
  const binary = atob(tight);
  const bytes = new Uint8Array(binary.length);
  for (let index = 0; index < bytes.length; index += 1) bytes[index] = binary.charCodeAt(index);
  return bytes;
}

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
