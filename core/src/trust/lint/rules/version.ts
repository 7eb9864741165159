import type { LintRule } from '../rule.js';

export const versionRule: LintRule = {
  id: 'version',
  clause: 'Part 6 §6.2.2, version',
  severity: 'error',
  test: ({ version }) => (version === 3 ? null : `It is an X.509 certificate of version ${version}.`),
  remedy: 'Create it again as version 3, which alone has extensions.',
};
