import ipaddr from 'ipaddr.js';
import type { Certificate } from '../certificate.js';
import { about } from './problem.js';
import type { CertificateProblem } from './problem.js';

const none: readonly CertificateProblem[] = [];

/** What can be no address is not tried as one: trying ends in an exception, which takes longer than all the rest. */
const mayBeAddress = /^[\da-f.]*:|^[\d.]+$/;

/** Step 7: the host that was dialled is among the DNS names or IP addresses of the certificate. */
export function hostProblems(certificate: Certificate, used: string): readonly CertificateProblem[] {
  const { dnsNames, ipAddresses } = certificate.summary;
  const wanted = used.toLowerCase().replace(/^\[|\]$/g, '');
  const fits =
    mayBeAddress.test(wanted) && ipaddr.isValid(wanted)
      ? ipAddresses.includes(ipaddr.parse(wanted).toString()) || dnsNames.includes(wanted)
      : dnsNames.some((name) => dnsNameFits(name.toLowerCase(), wanted));
  return fits
    ? none
    : [
        {
          kind: 'host-mismatch',
          status: 'BadCertificateHostNameInvalid',
          ...about(certificate),
          used,
          made: [...dnsNames, ...ipAddresses],
        },
      ];
}

/** RFC 9525 §6.3: a wildcard stands for exactly the leftmost label. */
function dnsNameFits(name: string, host: string): boolean {
  if (name === host) return true;
  return name.startsWith('*.') && host.includes('.') && host.slice(host.indexOf('.')) === name.slice(1);
}

/** Step 8: the one URI of the certificate is the application’s, to the letter. */
export function uriProblems(certificate: Certificate, expected: string): readonly CertificateProblem[] {
  const { alternativeNames } = certificate.extensions;
  let uris = 0;
  let fitting = 0;
  for (const name of alternativeNames ?? []) {
    if (name.kind !== 'uri') continue;
    uris += 1;
    if (name.value === expected) fitting += 1;
  }
  if (uris === 1 && fitting === 1) return none;
  const found = certificate.summary.applicationUris;
  return [{ kind: 'uri-mismatch', status: 'BadCertificateUriInvalid', ...about(certificate), expected, found }];
}
