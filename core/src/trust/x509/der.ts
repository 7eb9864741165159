/**
 * Strict reading of DER (X.690): definite lengths in their shortest form, low tag numbers, nothing left over.
 * Readers of structures throw a DerFault; whoever offers a structure to the outside catches it.
 */
export class DerFault extends Error {}

export interface DerElement {
  readonly tag: number;
  readonly source: Uint8Array;
  /** Where the element, its content and what follows it begin in the source. */
  readonly start: number;
  readonly from: number;
  readonly to: number;
}

export const derTag = {
  boolean: 0x01,
  integer: 0x02,
  bitString: 0x03,
  octetString: 0x04,
  objectIdentifier: 0x06,
  enumerated: 0x0a,
  utf8String: 0x0c,
  sequence: 0x30,
  set: 0x31,
  printableString: 0x13,
  teletexString: 0x14,
  ia5String: 0x16,
  utcTime: 0x17,
  generalizedTime: 0x18,
  universalString: 0x1c,
  bmpString: 0x1e,
} as const;

/** `[n]` of a context, primitive or constructed. */
export const contextTag = (number: number, constructed = true): number => (constructed ? 0xa0 : 0x80) | number;

/** The element that begins at `at` and ends at `end` at the latest. */
export function elementAt(source: Uint8Array, at: number, end: number): DerElement {
  const tag = source[at];
  const first = source[at + 1];
  if (tag === undefined || first === undefined || at + 2 > end) throw new DerFault('it is cut off');
  if ((tag & 0x1f) === 0x1f) throw new DerFault('it holds a tag that no such structure has');
  let from = at + 2;
  let length = first;
  if (first >= 0x80) {
    const count = first & 0x7f;
    if (count === 0) throw new DerFault('a length is not definite, which DER requires');
    if (count > 4) throw new DerFault('a length is too great');
    length = 0;
    for (let index = 0; index < count; index += 1) length = length * 256 + (source[from + index] ?? 0);
    from += count;
    if (length < 0x80 || (count > 1 && length < 2 ** (8 * (count - 1))))
      throw new DerFault('a length is not in its shortest form, which DER requires');
  }
  if (from + length > end) throw new DerFault('it is cut off');
  return { tag, source, start: at, from, to: from + length };
}

/** The one element that fills all of the bytes. */
export function wholeElement(source: Uint8Array, tag?: number): DerElement {
  const element = elementAt(source, 0, source.length);
  if (element.to !== source.length) throw new DerFault(`${source.length - element.to} bytes follow its end`);
  return tag === undefined ? element : expectTag(element, tag);
}

export function expectTag(element: DerElement | undefined, tag: number): DerElement {
  if (!element) throw new DerFault('a part is missing');
  if (element.tag !== tag) throw new DerFault(`a part has the tag ${hex(element.tag)} where ${hex(tag)} belongs`);
  return element;
}

const hex = (value: number): string => value.toString(16).padStart(2, '0');

/** What stands inside a constructed element, in its order. */
export function partsOf(element: DerElement): readonly DerElement[] {
  const parts: DerElement[] = [];
  for (let at = element.from; at < element.to;) {
    const part = elementAt(element.source, at, element.to);
    parts.push(part);
    at = part.to;
  }
  return parts;
}

export const contentOf = ({ source, from, to }: DerElement): Uint8Array => source.subarray(from, to);
export const encodingOf = ({ source, start, to }: DerElement): Uint8Array => source.subarray(start, to);

export function booleanOf(element: DerElement): boolean {
  const [value] = contentOf(element);
  if (element.to - element.from !== 1 || (value !== 0 && value !== 0xff))
    throw new DerFault('a BOOLEAN is neither true nor false');
  return value === 0xff;
}

/** The content of an INTEGER in two’s complement, in its shortest form. */
export function integerBytes(element: DerElement): Uint8Array {
  const content = contentOf(expectTag(element, derTag.integer));
  const [first, second] = content;
  if (first === undefined) throw new DerFault('an INTEGER is empty');
  if (second !== undefined && ((first === 0 && second < 0x80) || (first === 0xff && second >= 0x80)))
    throw new DerFault('an INTEGER is not in its shortest form');
  return content;
}

/** A small INTEGER that is not negative. */
export function smallInteger(element: DerElement, tag: number = derTag.integer): number {
  const content = element.tag === derTag.integer ? integerBytes(element) : contentOf(expectTag(element, tag));
  if (content.length === 0 || content.length > 5 || (content[0] ?? 0) >= 0x80)
    throw new DerFault('a number is out of its range');
  return content.reduce((value, byte) => value * 256 + byte, 0);
}

export interface BitString {
  readonly bytes: Uint8Array;
  readonly unusedBits: number;
}

export function bitStringOf(element: DerElement): BitString {
  const content = contentOf(expectTag(element, derTag.bitString));
  const unusedBits = content[0] ?? 8;
  if (unusedBits > 7 || (content.length === 1 && unusedBits > 0)) throw new DerFault('a BIT STRING is malformed');
  return { bytes: content.subarray(1), unusedBits };
}

/** What a BIT STRING holds whose bits fill whole bytes: a signature or a key with bits to spare would have a second form. */
export function wholeBytesOf(element: DerElement): Uint8Array {
  const { bytes, unusedBits } = bitStringOf(element);
  if (unusedBits !== 0) throw new DerFault('a key or a signature does not fill whole bytes');
  return bytes;
}

/** Those that were read before, by their encoding: the same few come again in every certificate. */
const knownIdentifiers = new Map<string, string>();
const mostKnownIdentifiers = 1000;

/** Dotted form of an OBJECT IDENTIFIER (X.690 §8.19). */
export function objectIdentifierOf(element: DerElement): string {
  const encoded = latinText(contentOf(expectTag(element, derTag.objectIdentifier)));
  const known = knownIdentifiers.get(encoded);
  if (known !== undefined) return known;
  const read = readIdentifier(element);
  if (knownIdentifiers.size < mostKnownIdentifiers) knownIdentifiers.set(encoded, read);
  return read;
}

function readIdentifier({ source, from, to }: DerElement): string {
  if (from === to || ((source[to - 1] ?? 0x80) & 0x80) !== 0) throw new DerFault('an OBJECT IDENTIFIER is malformed');
  let text = '';
  let value = 0;
  for (let at = from; at < to; at += 1) {
    const byte = source[at] ?? 0;
    if (value === 0 && byte === 0x80) throw new DerFault('an OBJECT IDENTIFIER is malformed');
    value = value * 128 + (byte & 0x7f);
    if (value > Number.MAX_SAFE_INTEGER / 256) throw new DerFault('an OBJECT IDENTIFIER is too great');
    if ((byte & 0x80) !== 0) continue;
    if (text !== '') text += `.${value}`;
    else text = value < 80 ? `${Math.floor(value / 40)}.${value % 40}` : `2.${value - 80}`;
    value = 0;
  }
  return text;
}

const utf8 = new TextDecoder('utf-8', { fatal: true });

/** The text of a string type (X.680 §41). */
export function textOf(element: DerElement): string {
  const content = contentOf(element);
  switch (element.tag) {
    case derTag.utf8String:
      try {
        return utf8.decode(content);
      } catch {
        throw new DerFault('a text is not UTF-8');
      }
    case derTag.bmpString:
      return wideText(content, 2);
    case derTag.universalString:
      return wideText(content, 4);
    default:
      return latinText(content);
  }
}

const mostLettersAtOnce = 4096;

/** A text of one letter a byte, made at once: a text that is put together letter by letter is slow to compare. */
export function latinText(bytes: ArrayLike<number>): string {
  if (bytes.length <= mostLettersAtOnce) return String.fromCharCode.apply(null, bytes as number[]);
  let text = '';
  for (let at = 0; at < bytes.length; at += 1) text += String.fromCharCode(bytes[at] ?? 0);
  return text;
}

function wideText(bytes: Uint8Array, width: 2 | 4): string {
  if (bytes.length % width !== 0) throw new DerFault('a text is cut off');
  let text = '';
  for (let at = 0; at < bytes.length; at += width) {
    const code = bytes.subarray(at, at + width).reduce((value, byte) => value * 256 + byte, 0);
    if (code > 0x10ffff) throw new DerFault('a text holds what is no letter');
    text += String.fromCodePoint(code);
  }
  return text;
}

/** Milliseconds since 1970 of a UTCTime or GeneralizedTime in the form of RFC 5280 §4.1.2.5: in seconds, ending in Z. */
export function timeOf(element: DerElement): number {
  const { source, tag, from, to } = element;
  if (tag !== derTag.utcTime && tag !== derTag.generalizedTime) throw new DerFault('a time is of another type');
  const yearDigits = tag === derTag.utcTime ? 2 : 4;
  const noTime = (): DerFault => new DerFault(`“${latinText(contentOf(element))}” is no time`);
  if (to - from !== yearDigits + 11 || source[to - 1] !== 0x5a) throw noTime();
  const pair = (at: number): number => {
    const value = ((source[at] ?? 0) - 0x30) * 10 + (source[at + 1] ?? 0) - 0x30;
    if (!isDigit(source[at]) || !isDigit(source[at + 1])) throw noTime();
    return value;
  };
  const short = pair(from);
  const year = yearDigits === 4 ? short * 100 + pair(from + 2) : short + (short < 50 ? 2000 : 1900);
  const rest = from + yearDigits;
  const [month, day, hour] = [pair(rest), pair(rest + 2), pair(rest + 4)];
  const [minute, second] = [pair(rest + 6), pair(rest + 8)];
  const midnight = new Date(0);
  midnight.setUTCFullYear(year, month - 1, day);
  const isReal = midnight.getUTCMonth() === month - 1 && midnight.getUTCDate() === day;
  if (!isReal || hour > 23 || minute > 59 || second > 59) throw noTime();
  return midnight.getTime() + ((hour * 60 + minute) * 60 + second) * 1000;
}

const isDigit = (byte: number | undefined): boolean => byte !== undefined && byte >= 0x30 && byte <= 0x39;

const hexDigits = Array.from('0123456789ABCDEF', (digit) => digit.charCodeAt(0));

/** Capital hexadecimal. */
export function hexOf(bytes: Uint8Array): string {
  const letters: number[] = [];
  for (const byte of bytes) letters.push(hexDigits[byte >> 4] ?? 0, hexDigits[byte & 15] ?? 0);
  return latinText(letters);
}

/** Compares two encodings byte by byte. */
export function sameBytes(left: Uint8Array, right: Uint8Array): boolean {
  if (left.length !== right.length) return false;
  for (let at = 0; at < left.length; at += 1) if (left[at] !== right[at]) return false;
  return true;
}

/** Compares the encodings of two elements where they stand. */
export function sameEncoding(left: DerElement, right: DerElement): boolean {
  const length = left.to - left.start;
  if (length !== right.to - right.start) return false;
  for (let at = 0; at < length; at += 1)
    if (left.source[left.start + at] !== right.source[right.start + at]) return false;
  return true;
}
