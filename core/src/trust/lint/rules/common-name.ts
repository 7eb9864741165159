import { nameAttribute } from '../../x509/name.js';
import type { LintRule } from '../rule.js';

export const commonNameRule: LintRule = {
  id: 'common-name',
  clause: 'Part 6 §6.2.2, subject',
  severity: 'error',
  test: ({ subject }) =>
    subject.valuesOf(nameAttribute.commonName).length > 0 ? null : 'Its subject has no common name.',
  remedy: 'Give it the name of the application as common name.',
};
