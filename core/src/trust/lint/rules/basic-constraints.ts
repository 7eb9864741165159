import type { LintRule } from '../rule.js';

export const basicConstraintsRule: LintRule = {
  id: 'basic-constraints',
  clause: 'Part 6 §6.2.2, basicConstraints',
  severity: 'warning',
  test: ({ isAuthority }) =>
    isAuthority ? 'It is marked as an authority: whoever trusts it trusts everything that it signs.' : null,
  remedy: 'Create it again with CA false, and keep authorities apart from applications.',
};
