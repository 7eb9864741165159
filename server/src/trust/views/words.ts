/** Tells whether all words that were typed stand somewhere in some texts, in any order and case. */
export function fitsWords(typed: string): (...texts: readonly string[]) => boolean {
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  return (...texts) => {
    if (words.length === 0) return true;
    const text = texts.join(' ').toLowerCase();
    return words.every((word) => text.includes(word));
  };
}
