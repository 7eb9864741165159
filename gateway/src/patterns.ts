import { isPatternFault, itemPattern } from '@loyal-hinge/core';
import type { ItemPattern } from '@loyal-hinge/core';

/** Patterns of items that a source looks for; what can’t be read fits nothing. */
export const patternsIn = (texts: readonly string[]): readonly ItemPattern[] =>
  texts.flatMap((text) => {
    const read = itemPattern(text);
    return isPatternFault(read) ? [] : [read];
  });
