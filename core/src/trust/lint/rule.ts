import type { Certificate } from '../certificate.js';

/** A rule for OPC UA application instance certificates: one module each. */
export interface LintRule {
  readonly id: string;
  readonly clause: string;
  /** `error`: others will refuse it; `warning`: it works and will cause trouble; `advice`: it could be better. */
  readonly severity: 'error' | 'warning' | 'advice';
  /** What is wrong, in a sentence, or null where nothing is. */
  test(certificate: Certificate): string | null;
  readonly remedy: string;
}

export interface LintFinding {
  readonly ruleId: string;
  readonly clause: string;
  readonly severity: LintRule['severity'];
  readonly says: string;
  readonly remedy: string;
}
