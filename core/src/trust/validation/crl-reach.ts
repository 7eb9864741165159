import type { Certificate } from '../certificate.js';
import type { Crl } from '../crl.js';
import { allReasons, directoryKey, keysOf, reasonFlagNames } from '../x509/distribution-points.js';
import type { DistributionPoint, ReasonMask } from '../x509/distribution-points.js';

/** For which reasons a CRL speaks of a certificate; none, with why, where it does not. */
export interface CrlReach {
  readonly reasons: ReasonMask;
  readonly says: string | null;
}

const none = (says: string): CrlReach => ({ reasons: 0, says });

/** The point that every certificate has: whatever its issuer publishes under its own name (RFC 5280 §6.3.3). */
const implied: DistributionPoint = { name: null, reasons: null, issuers: null };

/** Names of those who may issue CRLs for a certificate beside its issuer, as keys. */
export const otherCrlIssuers = ({ extensions, issuer }: Certificate): readonly string[] =>
  (extensions.distributionPoints ?? [])
    .flatMap(({ issuers }) => issuers ?? [])
    .filter((key) => key !== directoryKey(issuer.key));

/** RFC 5280 §6.3.3 b and d, over all distribution points of the certificate. */
export function reachOf(crl: Crl, certificate: Certificate): CrlReach {
  const { scope } = crl;
  if (scope.certificates === 'attributes') return none('It speaks of attribute certificates only.');
  if (scope.certificates === 'authorities' && !certificate.isAuthority) return none('It speaks of authorities only.');
  if (scope.certificates === 'others' && certificate.isAuthority) return none('It does not speak of authorities.');
  const points = [...(certificate.extensions.distributionPoints ?? []), implied];
  const fitting = points.filter((point) => isBy(crl, point, certificate) && isAt(crl, point, certificate));
  if (fitting.length === 0)
    return none(
      crl.issuer.equals(certificate.issuer)
        ? 'It speaks of certificates with another distribution point.'
        : 'The certificate does not name its issuer as one who may revoke it.',
    );
  const reasons = fitting.reduce(
    (mask, point) => mask | ((point.reasons ?? allReasons) & (scope.reasons ?? allReasons)),
    0,
  );
  return reasons === 0
    ? none('It speaks of reasons that the certificate’s distribution point leaves out.')
    : { reasons, says: null };
}

/** Whoever issues it is the certificate’s issuer, or is named in its stead and says that it speaks for others. */
const isBy = (crl: Crl, { issuers }: DistributionPoint, certificate: Certificate): boolean =>
  issuers === null
    ? crl.issuer.equals(certificate.issuer)
    : crl.scope.isIndirect && issuers.includes(directoryKey(crl.issuer.key));

/** A CRL that names its place speaks of those certificates alone that name the same one. */
function isAt(crl: Crl, { name, issuers }: DistributionPoint, certificate: Certificate): boolean {
  if (crl.scope.name === null) return true;
  const places = keysOf(crl.scope.name, crl.issuer);
  const wanted = name ? keysOf(name, crl.issuer) : (issuers ?? [directoryKey(certificate.issuer.key)]);
  return wanted.some((place) => places.includes(place));
}

/** The reasons that are missing in a mask, in the standard’s words. */
export const reasonsMissing = (mask: ReasonMask): readonly string[] =>
  reasonFlagNames.filter((_, bit) => ((allReasons & ~mask) >> bit) & 1);
