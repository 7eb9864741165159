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
  const octets: number[] = [];
  const encoder = new TextEncoder();
  let at = from;
  for (; at < text.length; at += 1) {
    const letter = text[at] ?? '';
    if (letter === ',' || letter === '+') break;
    if (letter !== '\\') {
      // Letters beyond the basic plane are two units long.
      const whole = String.fromCodePoint(text.codePointAt(at) ?? 0);
      octets.push(...encoder.encode(whole));
      at += whole.length - 1;
      continue;
    }
    const pair = text.slice(at + 1, at + 3);
    if (hexPair.test(pair)) {
      octets.push(Number.parseInt(pair, 16));
      at += 2;
    } else {
      octets.push(...encoder.encode(text[at + 1] ?? ''));
      at += 1;
    }
  }
  return { value: new TextDecoder().decode(Uint8Array.from(octets)), end: at };
}
