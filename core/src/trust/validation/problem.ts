import { dayOf } from '../../time.js';
import type { Instant } from '../../time.js';
import type { Certificate, Thumbprint } from '../certificate.js';

/** What is wrong with a certificate, named as the causes are. `status` is `Good` for what is a warning only. */
export type CertificateProblem = {
  readonly status: string;
  readonly subject: string;
  readonly thumbprint: Thumbprint | null;
  /** Somebody answers for it until then; `status` is `Good`, and this is what it would be. */
  readonly waived?: { readonly status: string; readonly until: Instant };
} & (
  | { readonly kind: 'cert-malformed'; readonly says: string }
  | {
      readonly kind: 'chain-incomplete';
      readonly missingIssuer: string;
      readonly missingKeyId: string | null;
      /** An authority of the same name with another key lies in the lists: the issuer was renewed. */
      readonly namesake?: Thumbprint | null;
    }
  | {
      readonly kind: 'signature-wrong';
      readonly issuer: string;
      /** What it was signed with where that is not checked here: outdated, or not known. */
      readonly uncheckable?: string | null;
    }
  | { readonly kind: 'key-below-policy'; readonly policy: string; readonly says: string }
  | { readonly kind: 'not-trusted'; readonly issuer: string; readonly selfIssued: boolean }
  | { readonly kind: 'wrong-list'; readonly says: string }
  | { readonly kind: 'expired'; readonly notAfter: Instant }
  | { readonly kind: 'not-yet-valid'; readonly notBefore: Instant }
  | { readonly kind: 'issuer-expired'; readonly notBefore: Instant; readonly notAfter: Instant }
  | { readonly kind: 'expires-soon'; readonly notAfter: Instant; readonly days: number }
  | { readonly kind: 'host-mismatch'; readonly used: string; readonly made: readonly string[] }
  | { readonly kind: 'uri-mismatch'; readonly expected: string; readonly found: readonly string[] }
  | { readonly kind: 'usage-wrong'; readonly says: string; readonly ofIssuer: boolean }
  | {
      readonly kind: 'crl-missing';
      readonly issuer: string;
      readonly ofIssuer: boolean;
      /** Why the CRLs that are there can’t be used; null where there is none. */
      readonly refused?: string | null;
    }
  /** CRLs lie there that can’t be read: a warning where others tell of the certificate. */
  | { readonly kind: 'crl-unreadable'; readonly issuer: string; readonly count: number; readonly says: string }
  | { readonly kind: 'crl-stale'; readonly issuer: string; readonly nextUpdate: Instant; readonly ofIssuer: boolean }
  | { readonly kind: 'revoked'; readonly since: Instant; readonly issuer: string }
  | { readonly kind: 'issuer-revoked'; readonly since: Instant; readonly issuer: string }
);
export type CertificateProblemKind = CertificateProblem['kind'];

/** Whom a problem is about. */
export const about = (certificate: Certificate): { subject: string; thumbprint: Thumbprint } => ({
  subject: certificate.subject.text,
  thumbprint: certificate.thumbprint,
});

export const isWarning = (problem: CertificateProblem): boolean => problem.status === 'Good';

/** What is wrong, with the real names and dates in it, and until when that is waived where it is. */
export function sayProblem(problem: CertificateProblem): string {
  return problem.waived ? `${fault(problem)} Waived until ${dayOf(problem.waived.until)}.` : fault(problem);
}

function fault(problem: CertificateProblem): string {
  switch (problem.kind) {
    case 'cert-malformed':
    case 'key-below-policy':
    case 'wrong-list':
    case 'usage-wrong':
      return problem.says;
    case 'chain-incomplete':
      return `The issuer ${problem.missingIssuer} is nowhere to be found.`;
    case 'signature-wrong':
      return problem.uncheckable
        ? `The signature was made with ${problem.uncheckable}, and is not checked: it proves nothing.`
        : `The signature was not made with the key of ${problem.issuer}.`;
    case 'not-trusted':
      return `${problem.subject} is not in the trusted list, nor is an issuer of it.`;
    case 'expired':
      return `Expired on ${dayOf(problem.notAfter)}.`;
    case 'not-yet-valid':
      return `Valid only from ${dayOf(problem.notBefore)}.`;
    case 'issuer-expired':
      return `The issuer ${problem.subject} is valid from ${dayOf(problem.notBefore)} to ${dayOf(problem.notAfter)} only.`;
    case 'expires-soon':
      return `Expires on ${dayOf(problem.notAfter)}, in ${problem.days} days.`;
    case 'host-mismatch':
      return `Made for ${problem.made.join(', ') || 'no host at all'}, used for ${problem.used}.`;
    case 'uri-mismatch':
      return `Made for ${problem.found.join(', ') || 'no application URI'}, used by ${problem.expected}.`;
    case 'crl-missing':
      return `There is no usable CRL of ${problem.issuer}. ${problem.refused ?? ''}`.trim();
    case 'crl-unreadable':
      return problem.count === 1
        ? `A CRL in the lists can’t be read, and may be the one that tells of it. ${problem.says}`
        : `${problem.count} CRLs in the lists can’t be read, and may be those that tell of it. The first: ${problem.says}`;
    case 'crl-stale':
      return `The CRL of ${problem.issuer} should have been replaced by ${dayOf(problem.nextUpdate)}.`;
    case 'revoked':
      return `Revoked by ${problem.issuer} on ${dayOf(problem.since)}.`;
    case 'issuer-revoked':
      return `The issuer ${problem.subject} was revoked by ${problem.issuer} on ${dayOf(problem.since)}.`;
  }
}
