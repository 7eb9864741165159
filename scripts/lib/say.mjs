/** One line to the person who started it. */
export const say = (text) => console.log(text);

/** Ends with a sentence that says what to do. */
export function giveUp(text) {
  console.error(`\n${text}`);
  process.exit(1);
}
