/** `a`, `a and b`, `a, b and c`. */
export function listed(words: readonly string[]): string {
  const last = words.at(-1) ?? '';
  return words.length < 2 ? last : `${words.slice(0, -1).join(', ')} and ${last}`;
}

/**
 * One of two whole clauses, by number; `#` stands for it. Sentences are put together from whole clauses, never from words:
 * another language has other words, and another order of them.
 */
export const byNumber = (count: number, one: string, many: string): string =>
  (count === 1 ? one : many).replaceAll('#', String(count));

/** `1 item`, `3 items`. */
export const counted = (count: number, one: string, many = `${one}s`): string => `${count} ${count === 1 ? one : many}`;
