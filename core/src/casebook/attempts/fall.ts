import type { StepId } from '../../links/steps.js';

/** A time in which checks saw a link parted, for the same cause from the first to the last of them. */
export interface Fall {
  readonly linkId: string;
  readonly causeId: string | null;
  readonly step: StepId | null;
  /** Why, in a few words, and in a sentence. */
  readonly title: string;
  readonly headline: string;
  /** Milliseconds since 1970. */
  readonly from: number;
  readonly to: number;
  readonly checks: number;
  /** Its last check. */
  readonly checkId: string;
}
