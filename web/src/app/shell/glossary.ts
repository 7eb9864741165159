/** The words of the product, as docs/words.md explains them: shown with the keys, and where a word is met first. */
export const glossary = [
  ['Sound', 'every step that the link needs holds'],
  ['Strained', 'the link works, and a step is weak'],
  ['Parted', 'a step fails'],
  ['Untried', 'the link was never checked as it is now'],
  ['step', 'one of the things that must hold, in order, from name to write'],
  ['check', 'trying a link live, step by step, as its client'],
  ['fact', 'something that was observed, with its source and time'],
  ['cause', 'why a step is weak or fails, with the facts that show it'],
  ['remedy', 'a change that would mend a cause'],
  ['work order', 'changes in order: proposed, approved, carried out, proved'],
  ['bench', 'a live session by hand: browse, read, watch'],
] as const;

/** What the states of a link mean, in one sentence each. */
export const stateWords = glossary
  .slice(0, 4)
  .map(([word, means]) => `${word}: ${means}.`)
  .join(' ');
