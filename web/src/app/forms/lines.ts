import type { Schema } from './fits';

/** The lines of a text that are not empty; or its words, or whatever else is divided. */
export const linesOf = (text: string, divider: string | RegExp = '\n'): string[] =>
  text
    .split(divider)
    .map((line) => line.trim())
    .filter(Boolean);

/** A list of a schema of the contract. */
interface ListSchema {
  safeParse(
    value: unknown,
    params: Parameters<Schema['safeParse']>[1],
  ): {
    readonly error?:
      { readonly issues: readonly { readonly message: string; readonly path: readonly PropertyKey[] }[] } | undefined;
  };
}

/**
 * The schema of a text with one entry a line; what is wrong with an entry begins with its line.
 * @param read makes an entry of a line
 */
export const lines = (
  list: ListSchema,
  read: (line: string) => unknown = (line) => line,
  divider?: string | RegExp,
): Schema => ({
  safeParse(value, params) {
    const texts = linesOf(String(value), divider);
    const issues = list.safeParse(texts.map(read), params).error?.issues ?? [];
    const told = issues.map(({ message, path: [place] }) => ({
      message: typeof place === 'number' ? `“${texts[place] ?? ''}”: ${message}` : message,
    }));
    return told.length > 0 ? { error: { issues: told } } : {};
  },
});
