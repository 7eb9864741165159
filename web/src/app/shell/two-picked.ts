/** Of two things that are compared, the ids that are picked: one more lets go of the one that was picked first; the same again is let go. */
export const withPicked = (picked: readonly string[], id: string): readonly string[] =>
  picked.includes(id) ? picked.filter((other) => other !== id) : [...picked.slice(-1), id];
