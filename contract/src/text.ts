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
  const waiting: { readonly at: unknown; readonly place: readonly string[] }[] = [{ at: value, place: [] }];
  for (let next = waiting.pop(); next; next = waiting.pop()) {
    const { at, place } = next;
    if (typeof at === 'string') {
      const says = faultOf(at);
      if (says) return { place: place.join('.'), says };
    }
    if (typeof at !== 'object' || at === null) continue;
    if (place.length > mostDepth) return { place: place.slice(0, 3).join('.'), says: 'It is nested too deeply.' };
    for (const [key, inner] of Object.entries(at)) {
      if (faultOf(key)) return { place: place.join('.'), says: 'It has a name with a character that can’t be kept.' };
      waiting.push({ at: inner, place: [...place, key] });
    }
  }
  return null;
}

const faultOf = (text: string): string | null =>
  text.includes('\u0000')
    ? 'It has a character with the code 0, which can’t be kept.'
    : /\p{Surrogate}/u.test(text)
      ? 'It has half a character (a lone surrogate), which can’t be kept.'
      : null;
