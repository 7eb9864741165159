/**
 * A text of another machine as it can stand in one line of a terminal or a log: what breaks the line, steers a terminal or turns
 * the order of letters around is shown by its code.
 */
export const oneLine = (text: string): string =>
  text.replace(/[\p{Cc}\p{Cf}\p{Zl}\p{Zp}\p{Cs}]/gu, (letter) => `\\u{${(letter.codePointAt(0) ?? 0).toString(16)}}`);
