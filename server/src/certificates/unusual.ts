import type { CertificateSummary } from '@loyal-hinge/core';
import { counted, dayOf } from '@loyal-hinge/core';

const dayMs = 86_400_000;
const longestUsualDays = 5 * 366;

/** What somebody should notice before trusting a certificate, in sentences. */
export function unusualAbout(certificate: CertificateSummary, at: string): readonly string[] {
  const { notBefore, notAfter } = certificate;
  const days = Math.round((Date.parse(notAfter) - Date.parse(notBefore)) / dayMs);
  const left = Math.floor((Date.parse(notAfter) - Date.parse(at)) / dayMs);
  const told: (string | false)[] = [
    at > notAfter && `It expired on ${dayOf(notAfter)}.`,
    at < notBefore && `It is valid only from ${dayOf(notBefore)}.`,
    at <= notAfter && left < 60 && `It has only ${counted(left, 'day')} left.`,
    days > longestUsualDays && `It is valid for ${Math.round(days / 365)} years: that is long.`,
    certificate.selfIssued &&
      'It is self-signed: nobody else confirms it, so compare the thumbprint with the one shown at the machine.',
    certificate.isAuthority && 'It is an authority: trusting it trusts everything that it signs.',
    certificate.applicationUris.length !== 1 && 'It does not name exactly one application URI.',
    certificate.dnsNames.length + certificate.ipAddresses.length === 0 && 'It names no host.',
    certificate.keyType === 'RSA' && certificate.keyBits < 2048 && `Its key has only ${certificate.keyBits} bits.`,
    certificate.signatureHash === 'SHA-1' && 'It is signed with SHA-1, which can be forged.',
  ];
  return told.filter((line): line is string => typeof line === 'string');
}
