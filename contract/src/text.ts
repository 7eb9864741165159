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
        return { place: placeOf(next).join('.'), says: 'It has a name with a character that can’t be kept.' };
      // Numbers and the like hold nothing that could be a fault.
      if (typeof inner === 'string' || (typeof inner === 'object' && inner !== null))
        waiting.push({ at: inner, key, inside: next, depth: depth + 1 });
    }
  }
  return null;
}

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
    ? 'It has a character with the code 0, which can’t be kept.'
    : /\p{Surrogate}/u.test(text)
      ? 'It has half a character (a lone surrogate), which can’t be kept.'
      : null;
