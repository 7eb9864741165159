import type { LintRule } from '../rule.js';

export const unknownCriticalRule: LintRule = {
  id: 'unknown-critical',
  clause: 'RFC 5280 §4.2',
  severity: 'error',
  test({ extensions: { unknownCritical } }) {
    return unknownCritical.length === 0
      ? null
      : `It has critical extensions that others will not know: ${unknownCritical.join(', ')}.`;
  },
  remedy: 'Leave them out, or do not mark them critical.',
};
