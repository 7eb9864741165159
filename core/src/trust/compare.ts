import { dayOf } from '../time.js';
import type { CertificateSummary } from './certificate.js';

/** What two certificates say differently of one thing. */
export interface CertificateDifference {
  readonly what: string;
  readonly known: string;
  readonly here: string;
}

type Said = readonly [what: string, of: (summary: CertificateSummary) => string];

const several = (values: readonly string[]): string => [...values].sort().join(', ');

/** In the order in which somebody decides by them: who it is, who vouches for it, the key, then the rest. */
const said: readonly Said[] = [
  ['subject', ({ subject }) => subject],
  ['issuer', ({ selfIssued, issuer }) => (selfIssued ? 'itself' : issuer)],
  ['application URI', ({ applicationUris }) => several(applicationUris)],
  ['names', ({ dnsNames, ipAddresses }) => several([...dnsNames, ...ipAddresses])],
  ['key', ({ keyType, keyBits }) => `${keyType}, ${keyBits} bits`],
  ['key identifier', ({ subjectKeyId }) => subjectKeyId ?? 'none'],
  ['signature', ({ signatureHash }) => signatureHash],
  ['valid from', ({ notBefore }) => dayOf(notBefore)],
  ['valid until', ({ notAfter }) => dayOf(notAfter)],
  ['serial number', ({ serialNumber }) => serialNumber],
];

/**
 * What a certificate says otherwise than the one that is known for the same application; empty where they differ in
 * nothing that is told, such as a signature made anew.
 */
export const differencesBetween = (
  known: CertificateSummary,
  here: CertificateSummary,
): readonly CertificateDifference[] =>
  said.map(([what, of]) => ({ what, known: of(known), here: of(here) })).filter((one) => one.known !== one.here);
