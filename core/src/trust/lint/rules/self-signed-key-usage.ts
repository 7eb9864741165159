import type { LintRule } from '../rule.js';

export const selfSignedKeyUsageRule: LintRule = {
  id: 'self-signed-key-usage',
  clause: 'Part 6 §6.2.2, keyUsage',
  severity: 'advice',
  test: (certificate) =>
    certificate.isSelfIssued && !certificate.extensions.keyUsages?.includes('keyCertSign')
      ? 'It is self-signed, and its key usage lacks keyCertSign.'
      : null,
  remedy:
    'Some stacks refuse a self-signed certificate without it; better still, have it signed by the plant’s authority.',
};
