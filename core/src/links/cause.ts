import type { LinkInPlant } from '../plant/plant.js';
import type { Remedy } from '../orders/change.js';
import type { EndpointChoice } from '../entry/choose-endpoint.js';
import type { Fact, FactBook, FactSource } from './facts.js';
import type { Instant } from '../time.js';
import type { StepId } from './steps.js';

/** Limits by which facts are judged; a plant may set its own. */
export interface Rules {
  /** Connecting slower than this is weak. */
  readonly slowConnectMs: number;
  /** Clocks further apart than this are weak. */
  readonly clockApartMs: number;
  /** Clocks further apart than this fail: secured messages are refused as too old. */
  readonly clockToleranceMs: number;
  /** Certificates with fewer days left are weak. */
  readonly expiresSoonDays: number;
  /** Smallest buffer that the standard allows (Part 6 §7.1.2.3), in bytes. */
  readonly leastBufferBytes: number;
}

export const usualRules: Rules = {
  slowConnectMs: 1000,
  clockApartMs: 5000,
  clockToleranceMs: 300_000,
  expiresSoonDays: 60,
  leastBufferBytes: 8192,
};

/** What a cause may look at. */
export interface Sight {
  readonly subject: LinkInPlant;
  readonly facts: FactBook;
  readonly rules: Rules;
  readonly at: Instant;
  /** What both sides would take; null as long as the server's endpoints are not known. */
  readonly choice: EndpointChoice | null;
}

export type Severity = 'fails' | 'weak';

/** What a cause found: the facts that made it fire, and what it needs to speak about them. */
export interface Evidence {
  readonly because: readonly [Fact, ...Fact[]];
}

/** A cause that fired, ready to be shown. */
export interface Finding {
  readonly causeId: string;
  readonly step: StepId;
  readonly severity: Severity;
  readonly grave: boolean;
  readonly title: string;
  readonly meaning: string;
  readonly clause: string;
  readonly evidence: readonly EvidenceLine[];
  readonly remedies: readonly Remedy[];
  /** Findings that this one explains. */
  readonly folded: readonly Finding[];
}

/** A fact as it is told under “how we know”. */
export const evidenceOf = ({ id, source, at, seenBy, ...body }: Fact, say: (fact: Fact) => string): EvidenceLine => ({
  factId: id,
  source,
  at,
  ...(seenBy === undefined ? {} : { seenBy }),
  says: say({ id, source, at, ...body } as Fact),
});

export interface EvidenceLine {
  readonly factId: string;
  readonly source: FactSource;
  readonly at: Instant;
  /** The probe that saw it; absent: the server itself. */
  readonly seenBy?: string | undefined;
  readonly says: string;
}

export interface CauseShape<Found extends Evidence> {
  readonly id: string;
  readonly steps: readonly StepId[];
  readonly clause: string;
  readonly title: string;
  readonly severity: Severity;
  /** Causes that need no word of their own where this one fired, of its own step or of others. */
  readonly explains?: readonly string[];
  test(sight: Sight, step: StepId): Found | null;
  /** Where it is worse or better than usual. */
  severityOf?(found: Found, sight: Sight): Severity;
  isGrave?(found: Found, sight: Sight): boolean;
  meaning(found: Found, sight: Sight): string;
  remedies(found: Found, sight: Sight): readonly Remedy[];
}

/** A catalogued reason for a weak or failed step. */
export interface Cause {
  readonly id: string;
  readonly steps: readonly StepId[];
  readonly clause: string;
  readonly title: string;
  readonly explains: readonly string[];
  /** Looks at the facts; null where the cause does not apply. */
  examine(sight: Sight, step: StepId, say: (fact: Fact) => string): Finding | null;
}

/** Makes a cause out of its parts. */
export function cause<Found extends Evidence>(shape: CauseShape<Found>): Cause {
  return {
    id: shape.id,
    steps: shape.steps,
    clause: shape.clause,
    title: shape.title,
    explains: shape.explains ?? [],
    examine(sight, step, say) {
      const found = shape.test(sight, step);
      if (!found) return null;
      return {
        causeId: shape.id,
        step,
        severity: shape.severityOf?.(found, sight) ?? shape.severity,
        grave: shape.isGrave?.(found, sight) ?? false,
        title: shape.title,
        meaning: shape.meaning(found, sight),
        clause: shape.clause,
        evidence: found.because.map((fact) => evidenceOf(fact, say)),
        remedies: shape.remedies(found, sight),
        folded: [],
      };
    },
  };
}
