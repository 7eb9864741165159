import { assess } from '../../assess.js';
import { usualRules } from '../../cause.js';
import { healthy, now, subject, validation } from '../../../testing/builders.js';
import type { CertificateProblem } from '../../../trust/validation/problem.js';

const about = { subject: 'CN=Furnace server', thumbprint: 'AB'.repeat(20), status: 'Good' } as const;
const until = '2026-06-01T00:00:00.000Z';
const waived = (status: string) => ({ status, until });
const then = '2026-02-01T00:00:00.000Z';

const problems: readonly CertificateProblem[] = [
  {
    kind: 'key-below-policy',
    ...about,
    policy: 'Basic256Sha256',
    says: '1024 bits.',
    waived: waived('BadCertificatePolicyCheckFailed'),
  },
  { kind: 'expired', ...about, notAfter: then, waived: waived('BadCertificateTimeInvalid') },
  { kind: 'not-yet-valid', ...about, notBefore: then, waived: waived('BadCertificateTimeInvalid') },
  {
    kind: 'issuer-expired',
    ...about,
    notBefore: then,
    notAfter: then,
    waived: waived('BadCertificateIssuerTimeInvalid'),
  },
  {
    kind: 'host-mismatch',
    ...about,
    used: 'furnace',
    made: ['lehr'],
    waived: waived('BadCertificateHostNameInvalid'),
  },
  { kind: 'usage-wrong', ...about, says: 'Short.', ofIssuer: false, waived: waived('BadCertificateUseNotAllowed') },
  {
    kind: 'crl-missing',
    ...about,
    issuer: 'CN=Works CA',
    ofIssuer: false,
    waived: waived('BadCertificateRevocationUnknown'),
  },
  {
    kind: 'crl-unreadable',
    ...about,
    issuer: 'CN=Works CA',
    count: 2,
    says: 'It is cut off.',
    waived: waived('BadCertificateRevocationUnknown'),
  },
  {
    kind: 'crl-stale',
    ...about,
    issuer: 'CN=Works CA',
    nextUpdate: then,
    ofIssuer: false,
    waived: waived('BadCertificateRevocationUnknown'),
  },
];

describe('a certificate whose fault somebody answers for', () => {
  it.each(problems)('strains the link and does not part it: $kind', (problem) => {
    const seen = [
      ...healthy().filter((fact) => fact.kind !== 'certificate-validation' || fact.of !== 'server'),
      validation('server', problem),
    ];
    const assessment = assess(subject(), seen, usualRules, now);
    expect(assessment).toMatchObject({ state: 'Strained', leadingCause: problem.kind });
    expect(assessment.headline.length).toBeGreaterThan(0);
    const step = assessment.steps.find(({ step }) => step === 'server-certificate');
    expect(step).toMatchObject({ verdict: 'weak' });
    expect(step?.findings[0]?.meaning).toContain('skips this until 1 June 2026; then it is refused.');
  });

  it.each(problems)('parts it where nobody does: $kind', (problem) => {
    const { waived: gone, ...bare } = problem;
    const failing = { ...bare, status: gone?.status ?? '' } as CertificateProblem;
    const assessment = assess(subject(), [validation('server', failing)], usualRules, now);
    expect(assessment).toMatchObject({ state: 'Parted', leadingCause: problem.kind });
  });
});
