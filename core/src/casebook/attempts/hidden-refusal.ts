import type { FactBody } from '../../links/facts.js';
import { readCertificate } from '../../trust/certificate.js';
import { splitDerChain } from '../../trust/pem.js';
import { sayProblem } from '../../trust/validation/problem.js';
import { securityPolicyOf } from '../../ua/security-policies.js';
import type { Conversation } from '../conversation/conversation.js';

/**
 * Whether the server’s answer to the opening of a secured channel was its last word: what it said is encrypted, but nobody
 * says anything afterwards, and it is the server that ends it. So it does who refuses (Part 6 §6.7.4). A client that has read
 * the refusal may be faster: then only a certificate that is out of date tells.
 */
export function endsOpening(conversation: Conversation): boolean {
  const { securityPolicyUri, hiddenMessages, services = [], outcome, closedFirstBy } = conversation;
  const isSecured = securityPolicyUri !== undefined && securityPolicyOf(securityPolicyUri)?.name !== 'None';
  if (!isSecured || hiddenMessages !== undefined || services.length !== 1) return false;
  if (outcome === 'reset-by-server' || closedFirstBy === 'server') return true;
  return (outcome === 'closed' || outcome === 'reset-by-client') && outOfDate(conversation).length > 0;
}

/** What the wire shows of the client’s certificate: whether it was out of date. Its trust nobody can tell who knows no lists. */
export function outOfDate({ senderCertificate, start }: Conversation): FactBody[] {
  const read = senderCertificate && readCertificate(splitDerChain(senderCertificate)?.[0] ?? senderCertificate);
  if (!read?.ok) return [];
  const { summary } = read.certificate;
  const { subject, thumbprint, notBefore, notAfter } = summary;
  const at = start / 1000;
  const status = 'BadCertificateTimeInvalid';
  const about = { status, subject, thumbprint };
  const problem =
    at > Date.parse(notAfter)
      ? { ...about, kind: 'expired' as const, notAfter }
      : at < Date.parse(notBefore)
        ? { ...about, kind: 'not-yet-valid' as const, notBefore }
        : null;
  if (!problem) return [];
  const step = {
    step: 'validity period' as const,
    number: 6,
    result: 'failed' as const,
    status,
    says: sayProblem(problem),
  };
  const validation = {
    status,
    certificate: summary,
    steps: [step],
    problems: [problem],
    path: [{ thumbprint, subject }],
  };
  return [{ kind: 'certificate-validation', of: 'client', validation }];
}
