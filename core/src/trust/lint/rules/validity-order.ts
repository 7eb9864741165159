import type { LintRule } from '../rule.js';

export const validityOrderRule: LintRule = {
  id: 'validity-order',
  clause: 'RFC 5280 §4.1.2.5',
  severity: 'error',
  test: ({ notBefore, notAfter }) => (notAfter > notBefore ? null : 'It ends before it begins.'),
  remedy: 'Create it again, and look at the clock of the machine that makes it.',
};
