import type { LintRule } from '../rule.js';

export const keySizeRule: LintRule = {
  id: 'key-size',
  clause: 'Part 6 §6.2.2, subjectPublicKeyInfo; Part 7',
  severity: 'error',
  test({ publicKey: { kind, bits } }) {
    if (kind === 'RSA' && (bits < 2048 || bits > 4096))
      return `Its RSA key has ${bits} bits; the policies of today want 2048 to 4096.`;
    return kind === 'other' ? 'Its key is of a kind that no security policy knows.' : null;
  },
  remedy: 'Create a new key of 2048, 3072 or 4096 bits, and a certificate for it.',
};
