import type { Fact } from '@loyal-hinge/core';
import type { CheckLog } from './means.js';

/** Keeps the facts of a walk in memory, for whoever needs its session rather than its verdict. @param keep is given bytes of certificates */
export function memoryLog(keep: CheckLog['keep'] = () => undefined): CheckLog & { readonly facts: readonly Fact[] } {
  const facts: Fact[] = [];
  return {
    facts,
    begin: () => undefined,
    keep,
    note(body, source = 'tried') {
      const fact: Fact = { ...body, id: `walk/${facts.length + 1}`, source, at: new Date().toISOString() };
      facts.push(fact);
      return fact;
    },
  };
}
