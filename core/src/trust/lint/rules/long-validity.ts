import type { LintRule } from '../rule.js';

const dayMs = 86_400_000;
const longestDays = 5 * 366;

export const longValidityRule: LintRule = {
  id: 'long-validity',
  clause: 'Part 6 §6.2.2, validity',
  severity: 'advice',
  test({ notBefore, notAfter }) {
    const days = (notAfter - notBefore) / dayMs;
    return days > longestDays ? `It is valid for ${Math.round(days / 365)} years.` : null;
  },
  remedy: 'Five years are enough where renewals are planned; the longer a key lives, the longer a stolen one works.',
};
