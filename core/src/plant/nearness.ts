/**
 * How far two words are apart: the number of letters to add, drop, change or swap with their neighbour
 * (optimal string alignment distance).
 */
export function editDistance(left: string, right: string): number {
  let before: number[] = [];
  let previous = Array.from({ length: right.length + 1 }, (_, column) => column);
  for (let row = 1; row <= left.length; row += 1) {
    const current = [row];
    for (let column = 1; column <= right.length; column += 1) {
      const same = left[row - 1] === right[column - 1];
      let least = Math.min(
        at(previous, column) + 1,
        at(current, column - 1) + 1,
        at(previous, column - 1) + (same ? 0 : 1),
      );
      const swapped =
        row > 1 && column > 1 && left[row - 1] === right[column - 2] && left[row - 2] === right[column - 1];
      if (swapped) least = Math.min(least, at(before, column - 2) + 1);
      current.push(least);
    }
    before = previous;
    previous = current;
  }
  return at(previous, right.length);
}

const at = (row: readonly number[], index: number): number => row[index] ?? Number.POSITIVE_INFINITY;

/**
 * The candidate nearest to a word, or null where none is near enough to be meant:
 * at most a third of the word's letters, and never more than four, may differ.
 */
export function nearest(word: string, candidates: readonly string[]): string | null {
  const limit = Math.min(4, Math.max(1, Math.floor(word.length / 3)));
  const lower = word.toLowerCase();
  let best: { candidate: string; distance: number } | null = null;
  for (const candidate of candidates) {
    if (Math.abs(candidate.length - word.length) > limit) continue;
    const distance = editDistance(lower, candidate.toLowerCase());
    if (distance <= limit && (!best || distance < best.distance)) best = { candidate, distance };
  }
  return best?.candidate ?? null;
}

/** True where two address literals differ in exactly one character, or by one character more or less. */
export const isOneDigitOff = (left: string, right: string): boolean =>
  left !== right && editDistance(left, right) === 1;
