import type { LintRule } from '../rule.js';

const [serverAuth, clientAuth] = ['1.3.6.1.5.5.7.3.1', '1.3.6.1.5.5.7.3.2'] as const;

export const extendedKeyUsageRule: LintRule = {
  id: 'extended-key-usage',
  clause: 'Part 6 §6.2.2, extendedKeyUsage',
  severity: 'error',
  test({ extensions }) {
    const usages = extensions.extendedKeyUsages ?? [];
    return usages.includes(serverAuth) || usages.includes(clientAuth)
      ? null
      : 'Its extended key usage allows neither serverAuth nor clientAuth.';
  },
  remedy: 'Allow serverAuth for a server, clientAuth for a client, both for what is both.',
};
