import type { FactBody } from '../../links/facts.js';
import type { LinkKindId } from '../../links/kinds.js';

/** Where something comes from or goes to, as far as a source tells. */
export interface AttemptPlace {
  readonly address: string | null;
  /** As the source calls the machine. */
  readonly name: string | null;
  readonly port: number | null;
}

/** Where it stands that something happened. */
export interface AttemptEvidence {
  readonly fileId: string;
  /** Bytes from the start of the file. */
  readonly position: number;
  readonly says: string;
}

/** How an attempt to reach somebody ended: it worked, or not and why in one sentence. */
export interface AttemptEnd {
  readonly hasFailed: boolean;
  /** The name of a code, such as `BadUserAccessDenied`; empty: there is none. */
  readonly code: string;
  readonly says: string;
}

/** Somebody tried to reach somebody: what one or more sources tell of it. */
export interface Attempt {
  /** What it was meant to speak; null: it can’t be told. */
  readonly kind: LinkKindId | null;
  readonly from: AttemptPlace;
  readonly to: AttemptPlace;
  /** As whom; null: it isn’t told. */
  readonly as: string | null;
  /** Milliseconds since 1970, by the clock of its source as it was set right. */
  readonly start: number;
  readonly end: number;
  readonly ended: AttemptEnd;
  /** The same facts as a live check gives, as far as they are told. */
  readonly facts: readonly FactBody[];
  /** What else it shows, such as a password in clear text. */
  readonly remarks: readonly string[];
  readonly evidence: readonly AttemptEvidence[];
}

/** One source of attempts: a file, and how its clock stands. */
export interface AttemptSource {
  readonly fileId: string;
  /** Milliseconds by which its clock is ahead of ours. */
  readonly clockAheadMs: number;
}
