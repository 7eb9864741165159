import type { Certificate } from '../certificate.js';
import type { LintFinding, LintRule } from './rule.js';
import { applicationUriRule } from './rules/application-uri.js';
import { authorityKeyIdRule } from './rules/authority-key-id.js';
import { basicConstraintsRule } from './rules/basic-constraints.js';
import { commonNameRule } from './rules/common-name.js';
import { extendedKeyUsageRule } from './rules/extended-key-usage.js';
import { hostNamesRule } from './rules/host-names.js';
import { keySizeRule } from './rules/key-size.js';
import { keyUsageRule } from './rules/key-usage.js';
import { longValidityRule } from './rules/long-validity.js';
import { organizationRule } from './rules/organization.js';
import { selfSignedKeyUsageRule } from './rules/self-signed-key-usage.js';
import { serialNumberRule } from './rules/serial-number.js';
import { signatureHashRule } from './rules/signature-hash.js';
import { unknownCriticalRule } from './rules/unknown-critical.js';
import { validityOrderRule } from './rules/validity-order.js';
import { versionRule } from './rules/version.js';

export type { LintFinding, LintRule } from './rule.js';

export const lintRules: readonly LintRule[] = [
  versionRule,
  serialNumberRule,
  signatureHashRule,
  validityOrderRule,
  longValidityRule,
  commonNameRule,
  organizationRule,
  keySizeRule,
  applicationUriRule,
  hostNamesRule,
  keyUsageRule,
  selfSignedKeyUsageRule,
  extendedKeyUsageRule,
  basicConstraintsRule,
  authorityKeyIdRule,
  unknownCriticalRule,
];

const rank = { error: 0, warning: 1, advice: 2 } as const;

/** Holds a certificate against all rules; the gravest findings first. */
export function lintCertificate(certificate: Certificate): readonly LintFinding[] {
  return lintRules
    .flatMap(({ id, clause, severity, remedy, test }): LintFinding[] => {
      const says = test(certificate);
      return says === null ? [] : [{ ruleId: id, clause, severity, says, remedy }];
    })
    .sort((left, right) => rank[left.severity] - rank[right.severity]);
}
