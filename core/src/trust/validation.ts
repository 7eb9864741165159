import type { Instant } from '../time.js';
import type { SecurityPolicy } from '../ua/security-policies.js';
import { readCertificate } from './certificate.js';
import type { CertificateSummary, Thumbprint } from './certificate.js';
import { CertificateJudge } from './validation/judge.js';
import type { Judgement } from './validation/judge.js';
import { ReadTrustList, certificatesIn } from './validation/lists.js';
import type { TrustList } from './validation/lists.js';
import { isWarning, sayProblem } from './validation/problem.js';
import type { CertificateProblem } from './validation/problem.js';
import type { Waiver } from './validation/waivers.js';

/** The eleven validation steps of Part 4 §6.1.3, in their order. */
export const validationSteps = [
  'structure',
  'chain',
  'signature',
  'security policy',
  'trust list',
  'validity period',
  'host name',
  'URI',
  'usage',
  'revocation list',
  'revocation',
] as const;
export type ValidationStepName = (typeof validationSteps)[number];

export interface ValidationStepResult {
  readonly step: ValidationStepName;
  readonly number: number;
  readonly result: 'passed' | 'failed' | 'warned' | 'not needed' | 'not reached';
  readonly status: string;
  readonly says: string;
}

export interface CertificateValidation {
  /** `Good`, or the status code of the first step that failed. */
  readonly status: string;
  readonly certificate: CertificateSummary | null;
  readonly steps: readonly ValidationStepResult[];
  readonly problems: readonly CertificateProblem[];
  /** Leaf first, as far as the chain could be built. */
  readonly path: readonly { readonly thumbprint: Thumbprint; readonly subject: string }[];
}

export interface ValidationRequest {
  readonly certificate: Uint8Array;
  /** Issuers that the other side sent along. */
  readonly sentIssuers: readonly Uint8Array[];
  readonly trustList: TrustList;
  readonly at: Instant;
  /** ApplicationDescription.applicationUri; null: not compared. */
  readonly applicationUri: string | null;
  /** The host that was really dialled; null: not compared (a server doesn't check its client's host). */
  readonly host: string | null;
  /** null: key length and hash are not compared. */
  readonly policy: SecurityPolicy | null;
  /** Whether an authority without any CRL is a failure. */
  readonly crlsDemanded: boolean;
  /** Warn where fewer days are left. */
  readonly warnDays: number;
  /** What the one who validates has waived. */
  readonly waivers?: readonly Waiver[];
}

/**
 * Validates an application instance certificate as Part 4 §6.1.3 says, all eleven steps, each with its own result:
 * a failed step does not hide what the later ones would find.
 */
export async function validateCertificate(request: ValidationRequest): Promise<CertificateValidation> {
  const read = readCertificate(request.certificate);
  if (!read.ok) return malformedCertificate(read.says);
  const judge = new CertificateJudge(ReadTrustList.read(request.trustList));
  return describeJudgement(
    await judge.judge({
      ...request,
      certificate: read.certificate,
      sentIssuers: certificatesIn(request.sentIssuers),
      at: Date.parse(request.at),
      profile: 'application',
    }),
  );
}

/** A judgement as plain data with its sentences. */
export function describeJudgement({ status, certificate, path, findings }: Judgement): CertificateValidation {
  return {
    status,
    certificate: certificate.summary,
    steps: validationSteps.map((step, index) => stepResult(step, index + 1, findings[index] ?? null)),
    problems: findings.flatMap((problems) => problems ?? []),
    path: path.map(({ thumbprint, subject }) => ({ thumbprint, subject: subject.text })),
  };
}

function stepResult(
  step: ValidationStepName,
  number: number,
  problems: readonly CertificateProblem[] | null,
): ValidationStepResult {
  if (problems === null) return { step, number, result: 'not needed', status: 'Good', says: 'Nothing to compare.' };
  const failed = problems.find((problem) => !isWarning(problem));
  if (failed) return { step, number, result: 'failed', status: failed.status, says: sayProblem(failed) };
  const warned = problems[0];
  if (warned) return { step, number, result: 'warned', status: 'Good', says: sayProblem(warned) };
  return { step, number, result: 'passed', status: 'Good', says: 'In order.' };
}

/** The result for bytes that are no certificate: it fails at the first step, and the others are not reached. */
export function malformedCertificate(says: string): CertificateValidation {
  const problem: CertificateProblem = {
    kind: 'cert-malformed',
    status: 'BadCertificateInvalid',
    subject: '',
    thumbprint: null,
    says,
  };
  return {
    status: problem.status,
    certificate: null,
    steps: validationSteps.map((step, index) =>
      index === 0
        ? { step, number: 1, result: 'failed', status: problem.status, says }
        : { step, number: index + 1, result: 'not reached', status: 'Good', says: 'The certificate can’t be read.' },
    ),
    problems: [problem],
    path: [],
  };
}
