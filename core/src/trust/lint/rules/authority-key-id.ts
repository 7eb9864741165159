import type { LintRule } from '../rule.js';

export const authorityKeyIdRule: LintRule = {
  id: 'authority-key-id',
  clause: 'Part 6 §6.2.2, authorityKeyIdentifier',
  severity: 'advice',
  test: (certificate) =>
    !certificate.isSelfIssued && certificate.extensions.authorityKeyId === null
      ? 'It does not name the key that signed it.'
      : null,
  remedy: 'Let the authority put its key identifier in; it tells renewed issuers of one name apart.',
};
