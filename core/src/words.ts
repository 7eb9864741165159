/** The words of what somebody typed, in small letters. */
export const wordsIn = (typed: string): readonly string[] => typed.toLowerCase().split(/\s+/).filter(Boolean);

/**
 * Judges texts by the words that were typed: all of them must stand somewhere in the texts, in any order and case.
 * Nothing typed fits everything.
 */
export function fitsWords(typed: string): (...texts: readonly (string | null)[]) => boolean {
  const words = wordsIn(typed);
  return (...texts) => {
    if (words.length === 0) return true;
    const text = texts.join(' ').toLowerCase();
    return words.every((word) => text.includes(word));
  };
}
