/** One attribute of a distinguished name as it is written, such as `CN` and `Furnace server`. */
export interface NameAttribute {
  /** Short name, or an object identifier. */
  readonly type: string;
  readonly value: string;
}

/**
 * Reads a distinguished name as it is written for people (RFC 4514 §3): relative names divided by commas, their attributes
 * by plus signs, special letters behind a backslash, others as the hexadecimal of their octets. What is not written so
 * gives the attributes up to there.
 */
export function readNameText(text: string): readonly NameAttribute[] {
  const attributes: NameAttribute[] = [];
  let at = 0;
  while (at < text.length) {
    while (text[at] === ' ') at += 1;
    const equals = text.indexOf('=', at);
    if (equals < 0) break;
    const { value, end } = readValue(text, equals + 1);
    attributes.push({ type: text.slice(at, equals).trim(), value });
    at = end + 1;
  }
  return attributes;
}

/** The first value of a type of attribute; null where the name has none. */
export const valueIn = (text: string, type: string): string | null =>
  readNameText(text).find((attribute) => attribute.type === type)?.value ?? null;

const hexPair = /^[0-9A-Fa-f]{2}$/;

/** A value and where it ends: at the first divider that is not escaped, or with the text. */
function readValue(text: string, from: number): { readonly value: string; readonly end: number } {
  let value = '';
  let at = from;
  while (at < text.length) {
    const letter = text.charAt(at);
    if (letter === ',' || letter === '+') break;
    if (letter !== '\\') {
      value += letter;
      at += 1;
      continue;
    }
    const octets = escapedOctets(text, at);
    value += octets.length > 0 ? utf8.decode(Uint8Array.from(octets)) : text.charAt(at + 1);
    at += octets.length > 0 ? octets.length * 3 : 2;
  }
  return { value, end: Math.min(at, text.length) };
}

const utf8 = new TextDecoder();

/** Octets that are written one after the other as `\` and two digits: together they are text in UTF-8. */
function escapedOctets(text: string, from: number): readonly number[] {
  const octets: number[] = [];
  for (let at = from; text[at] === '\\' && hexPair.test(text.slice(at + 1, at + 3)); at += 3)
    octets.push(Number.parseInt(text.slice(at + 1, at + 3), 16));
  return octets;
}
