import type { LintRule } from '../rule.js';

export const signatureHashRule: LintRule = {
  id: 'signature-hash',
  clause: 'Part 6 §6.2.2, signature; Part 7',
  severity: 'warning',
  test({ signatureAlgorithm }) {
    if (signatureAlgorithm.kind === 'unknown')
      return `It is signed in a way that is not known here (${signatureAlgorithm.oid}).`;
    return 'hash' in signatureAlgorithm && signatureAlgorithm.hash === 'SHA-1' ? 'It is signed with SHA-1.' : null;
  },
  remedy: 'Have it signed with SHA-256 or better: the policies that are not deprecated accept nothing less.',
};
