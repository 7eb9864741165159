import type { LinkInPlant, StepId } from '@loyal-hinge/core';
import type { CheckLog, CheckMeans } from './means.js';

/** Why a walk was ended from outside, in words that follow a colon. */
export const whyEnded = ({ reason }: AbortSignal): string =>
  reason instanceof Error && reason.name !== 'AbortError' ? reason.message : 'it was cancelled.';

/** What all stages of one walk share: whose link it is, by which means, where facts go, and whether to stop. */
export class Walk {
  /** What is being done, in words: where the walk stopped if it stops. */
  during = 'the start';
  /**
   * Where facts go. Once the walk is cancelled none is taken, since what calls come to then comes of that, and ends the
   * walk; but what was written was written.
   */
  readonly log: CheckLog;
  /** The needed items that were found, with their nodes. */
  foundItems: readonly { readonly path: string; readonly nodeId: string }[] = [];

  constructor(
    readonly subject: LinkInPlant,
    readonly means: CheckMeans,
    log: CheckLog,
    readonly signal: AbortSignal,
    /** Whether the walk also looks at what the link does not need; a walk for a session alone does not. */
    readonly looksAround: boolean,
  ) {
    this.log = {
      begin: (step) => log.begin(step),
      keep: (der) => log.keep(der),
      note: (body, source, at) => {
        if (body.kind !== 'item-written') signal.throwIfAborted();
        return log.note(body, source, at);
      },
    };
  }

  begin(step: StepId, words: string): void {
    this.signal.throwIfAborted();
    this.during = words;
    this.log.begin(step);
  }
}
