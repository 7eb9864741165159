import { nameAttribute } from '../../x509/name.js';
import type { LintRule } from '../rule.js';

export const organizationRule: LintRule = {
  id: 'organization',
  clause: 'Part 6 §6.2.2, subject',
  severity: 'warning',
  test: ({ subject }) =>
    subject.valuesOf(nameAttribute.organization).length > 0 ? null : 'Its subject names no organization.',
  remedy: 'Name the organization that runs the application.',
};
