import type { KeyUsage } from '../../x509/extensions.js';
import type { LintRule } from '../rule.js';

const wantedOf = {
  RSA: ['digitalSignature', 'nonRepudiation', 'keyEncipherment', 'dataEncipherment'],
  EC: ['digitalSignature'],
  Ed25519: ['digitalSignature'],
  Ed448: ['digitalSignature'],
  other: [],
} as const satisfies Record<string, readonly KeyUsage[]>;

export const keyUsageRule: LintRule = {
  id: 'key-usage',
  clause: 'Part 6 §6.2.2, keyUsage',
  severity: 'error',
  test({ extensions, publicKey }) {
    const { keyUsages } = extensions;
    if (!keyUsages) return 'It does not say what its key may be used for.';
    const missing = wantedOf[publicKey.kind].filter((usage) => !keyUsages.includes(usage));
    return missing.length === 0 ? null : `Its key usage lacks ${missing.join(', ')}.`;
  },
  remedy:
    'For an RSA key: digitalSignature, nonRepudiation, keyEncipherment and dataEncipherment; else digitalSignature.',
};
