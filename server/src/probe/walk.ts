import type { LinkInPlant, StepId } from '@loyal-hinge/core';
import type { CheckLog, CheckMeans } from './means.js';

/** What all stages of one walk share: whose link it is, by which means, where facts go, and whether to stop. */
export class Walk {
  /** What is being done, in words: where the walk stopped if it stops. */
  during = 'the start';
  /** The needed items that were found, with their nodes. */
  foundItems: readonly { readonly path: string; readonly nodeId: string }[] = [];

  constructor(
    readonly subject: LinkInPlant,
    readonly means: CheckMeans,
    readonly log: CheckLog,
    readonly signal: AbortSignal,
    /** Whether the walk also looks at what the link does not need; a walk for a session alone does not. */
    readonly looksAround: boolean,
  ) {}

  begin(step: StepId, words: string): void {
    this.signal.throwIfAborted();
    this.during = words;
    this.log.begin(step);
  }
}
