/**
 * Judges texts by the words that were typed: all of them must stand somewhere in the texts, in any order and case.
 * Nothing typed fits everything.
 */
export function lookingFor(typed: string): (...texts: readonly (string | null)[]) => boolean {
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  return (...texts) => {
    const text = texts.join(' ').toLowerCase();
    return words.every((word) => text.includes(word));
  };
}
