import type { Instant } from '../../time.js';
import type { Certificate, Thumbprint } from '../certificate.js';
import { isWarning } from './problem.js';
import type { CertificateProblem } from './problem.js';

/**
 * The steps whose failure an administrator may suppress (Part 4 §6.1.3, Table 100), by their position among the eleven.
 * Structure, chain, signature, trust list, URI and revocation are never waived. Usage is waived only where the certificate
 * does not mark its usages as binding (critical), and never for an issuer that may not sign.
 */
const positions = {
  'security policy': 3,
  'validity period': 5,
  'host name': 6,
  usage: 8,
  'revocation list': 9,
} as const;
export type WaivableStep = keyof typeof positions;
export const waivableSteps = Object.keys(positions) as readonly WaivableStep[];

/** Somebody answers for it that one step does not count for one certificate, until a date. */
export interface Waiver {
  readonly thumbprint: Thumbprint;
  readonly step: WaivableStep;
  readonly until: Instant;
}

type Found = readonly CertificateProblem[] | null;

/** The findings with the waivers that are in force: what is waived is told as a warning, with its end. */
export function withWaivers(
  findings: readonly Found[],
  certificate: Certificate,
  waivers: readonly Waiver[],
  at: number,
): readonly Found[] {
  const inForce = waivers.filter(
    ({ thumbprint, until }) => thumbprint === certificate.thumbprint && Date.parse(until) > at,
  );
  if (inForce.length === 0) return findings;
  return findings.map((problems, position) => {
    const waiver = inForce.find(({ step }) => positions[step] === position);
    return waiver && problems ? problems.map((problem) => waived(problem, certificate, waiver)) : problems;
  });
}

function waived(problem: CertificateProblem, certificate: Certificate, { until }: Waiver): CertificateProblem {
  if (isWarning(problem) || isBinding(problem, certificate)) return problem;
  return { ...problem, status: 'Good', waived: { status: problem.status, until } };
}

const isBinding = (problem: CertificateProblem, { extensions }: Certificate): boolean =>
  problem.kind === 'usage-wrong' && (problem.ofIssuer || extensions.usageIsBinding);
