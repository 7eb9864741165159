import type { Certificate } from '../certificate.js';
import { about } from './problem.js';
import type { CertificateProblem } from './problem.js';

const dayMs = 86_400_000;
const iso = (ms: number): string => new Date(ms).toISOString();

/** Step 6: the time lies within the validity period of the certificate and of all of its issuers. */
export function validityProblems(
  path: readonly Certificate[],
  { at, warnDays }: { readonly at: number; readonly warnDays: number },
): readonly CertificateProblem[] {
  let problems: readonly CertificateProblem[] = [];
  for (let index = 0; index < path.length; index += 1) {
    const certificate = path[index] as Certificate;
    const left = certificate.notAfter - at;
    if (at >= certificate.notBefore && left >= warnDays * dayMs) continue;
    problems = [...problems, problemOf(certificate, index > 0, at, Math.floor(left / dayMs))];
  }
  return problems;
}

function problemOf(certificate: Certificate, ofIssuer: boolean, at: number, days: number): CertificateProblem {
  const [notBefore, notAfter] = [iso(certificate.notBefore), iso(certificate.notAfter)];
  const whom = about(certificate);
  const early = at < certificate.notBefore;
  const late = at > certificate.notAfter;
  if (ofIssuer && (early || late))
    return { kind: 'issuer-expired', status: 'BadCertificateIssuerTimeInvalid', ...whom, notBefore, notAfter };
  if (late) return { kind: 'expired', status: 'BadCertificateTimeInvalid', ...whom, notAfter };
  if (early) return { kind: 'not-yet-valid', status: 'BadCertificateTimeInvalid', ...whom, notBefore };
  return { kind: 'expires-soon', status: 'Good', ...whom, notAfter, days };
}
