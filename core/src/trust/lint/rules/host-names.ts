import type { LintRule } from '../rule.js';

const serverAuth = '1.3.6.1.5.5.7.3.1';
const placeholder = /^(localhost|127\.0\.0\.1|::1|hostname|myserver|your-?host)$/i;

export const hostNamesRule: LintRule = {
  id: 'host-names',
  clause: 'Part 6 §6.2.2, subjectAltName',
  severity: 'warning',
  test(certificate) {
    const { dnsNames, ipAddresses } = certificate.summary;
    const isServer = certificate.extensions.extendedKeyUsages?.includes(serverAuth) ?? true;
    const hosts = [...dnsNames, ...ipAddresses];
    if (hosts.length === 0)
      return isServer ? 'It names no host, so every client will ask whether it reached the right one.' : null;
    return hosts.every((host) => placeholder.test(host))
      ? `It names only ${hosts.join(', ')}, which is every machine.`
      : null;
  },
  remedy: 'Put the names and addresses that clients really dial among the alternative names.',
};
