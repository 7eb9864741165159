export interface TextFault {
  /** Where it is, as in `plant.zones.3.name`. */
  readonly place: string;
  readonly says: string;
}

const mostDepth = 60;

/**
 * Finds the first text that can’t be kept as it was sent: PostgreSQL stores no NUL, and half of a surrogate pair is no
 * character (Unicode 15, D75). Keys are looked at, too; whatever is nested deeper than anything that we take is a fault.
 */
export function unfitText(value: unknown): TextFault | null {
  const waiting: Nested[] = [{ at: value, key: '', inside: null, depth: 0 }];
  for (let next = waiting.pop(); next; next = waiting.pop()) {
    const { at, depth } = next;
    if (typeof at === 'string') {
      const says = faultOf(at);
      if (says) return { place: placeOf(next).join('.'), says };
    }
    if (typeof at !== 'object' || at === null) continue;
    if (depth > mostDepth) return { place: placeOf(next).slice(0, 3).join('.'), says: 'It is nested too deeply.' };
    for (const [key, inner] of Object.entries(at)) {
      if (faultOf(key))
        return { place: placeOf(next).join('.'), says: 'It has a name with a character that can’t be stored.' };
      // Numbers and the like hold nothing that could be a fault.
      if (typeof inner === 'string' || (typeof inner === 'object' && inner !== null))
        waiting.push({ at: inner, key, inside: next, depth: depth + 1 });
    }
  }
  return null;
}

/**
 * Whether JSON text is surely free of whatever `unfitText` finds, told from its letters alone and many times as fast.
 * @returns false also where only a look at the values can tell
 */
export function isSurelyFit(json: string): boolean {
  let depth = 0;
  let isText = false;
  for (let at = 0; at < json.length; at += 1) {
    const letter = json.charCodeAt(at);
    if (letter >= 0xd800 && letter <= 0xdfff) {
      const next = json.charCodeAt(at + 1);
      if (letter > 0xdbff || !(next >= 0xdc00 && next <= 0xdfff)) return false;
      at += 1;
    } else if (letter === quote) isText = !isText;
    else if (letter === backslash) {
      if (isUnfitEscape(json, at)) return false;
      at += 1;
    } else if (isText) continue;
    else if (letter === bracket || letter === brace) {
      depth += 1;
      if (depth > mostDepth) return false;
    } else if (letter === bracketEnd || letter === braceEnd) depth -= 1;
  }
  return true;
}

const [quote, backslash, bracket, brace, bracketEnd, braceEnd] = [...'"\\[{]}'].map((sign) => sign.charCodeAt(0));

/** Whether it is an escape of NUL or of a half of a surrogate pair (RFC 8259 §7). */
const isUnfitEscape = (json: string, at: number): boolean =>
  json[at + 1] === 'u' && /^(?:0000|d[89a-f])/i.test(json.slice(at + 2, at + 6));

/** A value and where it lies. */
interface Nested {
  readonly at: unknown;
  readonly key: string;
  readonly inside: Nested | null;
  readonly depth: number;
}

function placeOf(nested: Nested): readonly string[] {
  const keys: string[] = [];
  for (let one: Nested | null = nested; one?.inside; one = one.inside) keys.unshift(one.key);
  return keys;
}

const faultOf = (text: string): string | null =>
  text.includes('\u0000')
    ? 'It has a character with the code 0, which can’t be stored.'
    : /\p{Surrogate}/u.test(text)
      ? 'It has half a character (a lone surrogate), which can’t be stored.'
      : null;
