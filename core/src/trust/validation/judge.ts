import type { Certificate } from '../certificate.js';
import { uncomputed } from '../x509/algorithms.js';
import { webCryptoVerifier } from '../x509/signatures.js';
import type { SecurityPolicy } from '../../ua/security-policies.js';
import { policyFault } from './certificate-policies.js';
import type { Eventually } from './eventually.js';
import { hostProblems, uriProblems } from './host-and-uri.js';
import { keyPolicyProblems } from './key-policy.js';
import { KnownSignatures } from './known-signatures.js';
import type { ReadTrustList } from './lists.js';
import { nameConstraintFault } from './name-constraints.js';
import { PathFinder, lastOf } from './paths.js';
import type { FoundPath } from './paths.js';
import { about, isWarning } from './problem.js';
import type { CertificateProblem } from './problem.js';
import { Revocations } from './revocation.js';
import type { RevocationFindings } from './revocation.js';
import { trustProblems } from './trust.js';
import { usageProblems } from './usage.js';
import { validityProblems } from './validity.js';
import { withWaivers } from './waivers.js';
import type { Waiver } from './waivers.js';

/** What is asked about a certificate that was read. */
export interface Question {
  readonly certificate: Certificate;
  /** Issuers that the other side sent along. */
  readonly sentIssuers: readonly Certificate[];
  /** Milliseconds since 1970. */
  readonly at: number;
  /** ApplicationDescription.applicationUri; null: not compared. */
  readonly applicationUri: string | null;
  /** The host that was really dialled; null: not compared (a server doesn't check its client's host). */
  readonly host: string | null;
  /** null: key length and hash are not compared. */
  readonly policy: SecurityPolicy | null;
  /** Whether an authority without a usable CRL is a failure. */
  readonly crlsDemanded: boolean;
  /** Warn where fewer days are left. */
  readonly warnDays: number;
  /** `chain` leaves out what is particular to OPC UA applications; authorities that are trusted are anchors as they stand. */
  readonly profile: 'application' | 'chain';
  /** What the one who validates has waived; none where it is left out. */
  readonly waivers?: readonly Waiver[];
}

/** The findings of the eleven steps in their order; null: not needed. */
export type Findings = readonly (readonly CertificateProblem[] | null)[];

export interface Judgement {
  /** `Good`, or the status code of the first step that failed. */
  readonly status: string;
  readonly certificate: Certificate;
  readonly path: readonly Certificate[];
  readonly findings: Findings;
}

const none: readonly CertificateProblem[] = [];

/** Judges certificates against one trust list; whatever was verified once is known from then on, to all judges that share it. */
export class CertificateJudge {
  private readonly revocations: Revocations;
  private readonly finders: Record<Question['profile'], PathFinder>;

  constructor(
    private readonly list: ReadTrustList,
    private readonly signatures: KnownSignatures = new KnownSignatures(webCryptoVerifier),
  ) {
    this.revocations = new Revocations(list, this.signatures);
    this.finders = { application: this.finder('application', []), chain: this.finder('chain', []) };
  }

  /**
   * Goes the eleven steps of Part 4 §6.1.3. Of several ways to an anchor the first one counts on which all steps pass;
   * where there is none, the one that comes furthest.
   */
  judge(question: Question): Promise<Judgement> {
    const { certificate, sentIssuers, profile, at } = question;
    const finder = sentIssuers.length === 0 ? this.finders[profile] : this.finder(profile, sentIssuers);
    const weighing = new Weighing(this.list, this.revocations, question);
    const ended = finder.find(certificate, at, weighing);
    return ended instanceof Promise ? ended.then(() => weighing.outcome) : Promise.resolve(weighing.outcome);
  }

  private finder(profile: Question['profile'], sent: readonly Certificate[]): PathFinder {
    const { trusted, issuers } = this.list;
    const isAnchor = (certificate: Certificate): boolean => profile === 'chain' && this.list.trusts(certificate);
    return new PathFinder([...trusted, ...issuers, ...sent], this.signatures, isAnchor);
  }
}

/** Weighs the ways that are found for one question against each other. */
class Weighing {
  private best: Judgement | null = null;

  constructor(
    private readonly list: ReadTrustList,
    private readonly revocations: Revocations,
    private readonly question: Question,
  ) {}

  get outcome(): Judgement {
    const { certificate } = this.question;
    return this.best ?? { status: 'BadCertificateInvalid', certificate, path: [certificate], findings: [] };
  }

  pleases(path: FoundPath): Eventually<boolean> {
    const found = path.certificates.length < 2 ? null : this.revocations.of(path.certificates, this.question);
    return found instanceof Promise ? this.weighLater(path, found) : this.weigh(path, found);
  }

  private async weighLater(path: FoundPath, found: Promise<RevocationFindings>): Promise<boolean> {
    return this.weigh(path, await found);
  }

  private weigh(path: FoundPath, revocation: RevocationFindings | null): boolean {
    const judged = this.along(path, revocation);
    if (!this.best || failedStep(judged.findings) > failedStep(this.best.findings)) this.best = judged;
    return judged.status === 'Good';
  }

  private along({ certificates: path, end }: FoundPath, revocation: RevocationFindings | null): Judgement {
    const { question } = this;
    const { certificate, policy, host, applicationUri, profile, waivers, at } = question;
    const isApplication = profile === 'application';
    const distrust = trustProblems(path, this.list);
    // Names and policies are work that anybody’s certificates can ask for: done only where trust was given.
    const pathFaults = distrust.length === 0 ? [nameConstraintFault(path), policyFault(path)] : [];
    const found: Findings = [
      structureProblems(path),
      end === 'issuer missing' ? [chainIncomplete(path, this.list)] : none,
      end === 'signature wrong' ? [signatureWrong(path)] : none,
      policy?.key ? keyPolicyProblems(certificate, policy) : null,
      distrust,
      validityProblems(path, question),
      host === null || !isApplication ? null : hostProblems(certificate, host),
      applicationUri === null || !isApplication ? null : uriProblems(certificate, applicationUri),
      usageProblems(path, isApplication, ...pathFaults),
      revocation?.lists ?? null,
      revocation?.revoked ?? null,
    ];
    const findings = waivers && waivers.length > 0 ? withWaivers(found, certificate, waivers, at) : found;
    return { status: statusOf(findings), certificate, path, findings };
  }
}

/** RFC 5280 §4.2: a critical extension that isn’t understood forbids the certificate. */
function structureProblems(path: readonly Certificate[]): readonly CertificateProblem[] {
  let problems = none;
  for (const certificate of path) {
    const [oid] = certificate.extensions.unknownCritical;
    if (oid === undefined) continue;
    const says = `${certificate.subject.text} has a critical extension that is not known here (${oid}).`;
    problems = [...problems, { kind: 'cert-malformed', status: 'BadCertificateInvalid', ...about(certificate), says }];
  }
  return problems;
}

function chainIncomplete(path: readonly Certificate[], list: ReadTrustList): CertificateProblem {
  const last = lastOf(path);
  const namesake = [...list.trusted, ...list.issuers].find(
    (listed) => listed.isAuthority && listed.subject.equals(last.issuer),
  );
  return {
    kind: 'chain-incomplete',
    status: 'BadCertificateChainIncomplete',
    ...about(last),
    missingIssuer: last.issuer.text,
    missingKeyId: last.extensions.authorityKeyId,
    namesake: namesake?.thumbprint ?? null,
  };
}

function signatureWrong(path: readonly Certificate[]): CertificateProblem {
  const last = lastOf(path);
  const { issuer, signatureAlgorithm } = last;
  const uncheckable = uncomputed(signatureAlgorithm);
  return { kind: 'signature-wrong', status: 'BadCertificateInvalid', ...about(last), issuer: issuer.text, uncheckable };
}

/** The first of the eleven steps that failed, or 11 where none did. */
function failedStep(findings: Findings): number {
  for (let step = 0; step < findings.length; step += 1)
    for (const problem of findings[step] ?? none) if (!isWarning(problem)) return step;
  return findings.length;
}

const statusOf = (findings: Findings): string =>
  findings[failedStep(findings)]?.find((problem) => !isWarning(problem))?.status ?? 'Good';
