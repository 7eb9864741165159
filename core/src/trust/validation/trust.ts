import type { Certificate } from '../certificate.js';
import type { ReadTrustList } from './lists.js';
import { about } from './problem.js';
import type { CertificateProblem } from './problem.js';

const none: readonly CertificateProblem[] = [];

/** Step 5: the certificate or an authority above it is in the trusted list; the issuers list gives no trust. */
export function trustProblems(path: readonly Certificate[], list: ReadTrustList): readonly CertificateProblem[] {
  const [leaf] = path;
  if (!leaf || isTrusted(path, list)) return none;
  const notTrusted: CertificateProblem = {
    kind: 'not-trusted',
    status: 'BadCertificateUntrusted',
    ...about(leaf),
    issuer: leaf.issuer.text,
    selfIssued: leaf.isSelfIssued,
  };
  const misplaced = path.find((certificate) => list.holdsAsIssuer(certificate));
  if (!misplaced) return [notTrusted];
  const says =
    misplaced === leaf
      ? `${leaf.subject.text} is in the issuers list, where it gives no trust; it belongs into the trusted list.`
      : `The issuer ${misplaced.subject.text} is only in the issuers list: it completes the chain and gives no trust.`;
  return [{ kind: 'wrong-list', status: 'BadCertificateUntrusted', ...about(misplaced), says }, notTrusted];
}

/** From the top, where trust is usually given. */
function isTrusted(path: readonly Certificate[], list: ReadTrustList): boolean {
  for (let index = path.length - 1; index >= 0; index -= 1) {
    const certificate = path[index] as Certificate;
    if ((index === 0 || certificate.isAuthority) && list.trusts(certificate)) return true;
  }
  return false;
}
