import type { LintRule } from '../rule.js';

export const serialNumberRule: LintRule = {
  id: 'serial-number',
  clause: 'Part 6 §6.2.2, serialNumber; RFC 5280 §4.1.2.2',
  severity: 'warning',
  test({ serialNumber }) {
    if (/^(8|9|[A-F])/.test(serialNumber) && serialNumber.length % 2 === 0) return 'Its serial number is negative.';
    if (/^0+$/.test(serialNumber)) return 'Its serial number is zero.';
    return serialNumber.length > 40 ? 'Its serial number is longer than 20 bytes.' : null;
  },
  remedy: 'Let the authority choose a positive number of at most 20 bytes that it gave to no other certificate.',
};
