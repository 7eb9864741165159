import { X509Crl } from '@peculiar/x509';
import type { Instant } from '../time.js';
import { dayOf } from '../time.js';
import type { SecurityPolicy } from '../ua/security-policies.js';
import { readCertificate, sameBytes } from './certificate.js';
import type { Certificate, CertificateSummary, Thumbprint } from './certificate.js';

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

/** What is wrong with a certificate, named as the causes are. */
export type CertificateProblem = {
  readonly status: string;
  readonly subject: string;
  readonly thumbprint: Thumbprint | null;
} & (
  | { readonly kind: 'cert-malformed'; readonly says: string }
  | { readonly kind: 'chain-incomplete'; readonly missingIssuer: string; readonly missingKeyId: string | null }
  | { readonly kind: 'signature-wrong'; readonly issuer: string }
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
  | { readonly kind: 'crl-missing'; readonly issuer: string; readonly ofIssuer: boolean }
  | { readonly kind: 'crl-stale'; readonly issuer: string; readonly nextUpdate: Instant; readonly ofIssuer: boolean }
  | { readonly kind: 'revoked'; readonly since: Instant; readonly issuer: string }
  | { readonly kind: 'issuer-revoked'; readonly since: Instant; readonly issuer: string }
);
export type CertificateProblemKind = CertificateProblem['kind'];

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

export interface TrustList {
  /** These give trust: to themselves and, where they are authorities, to what hangs below them. */
  readonly trusted: readonly Uint8Array[];
  /** These complete chains and give no trust. */
  readonly issuers: readonly Uint8Array[];
  readonly crls: readonly Uint8Array[];
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
}

const dayMs = 86_400_000;

/**
 * Validates an application instance certificate as Part 4 §6.1.3 says, all eleven steps, each with its own result:
 * a failed step does not hide what the later ones would find.
 */
export async function validateCertificate(request: ValidationRequest): Promise<CertificateValidation> {
  const read = await readCertificate(request.certificate);
  if (!read.ok) return malformed(read.says);
  const leaf = read.certificate;
  const lists = await readTrustList(request.trustList);
  const sent = await readAll(request.sentIssuers);
  const built = await buildPath(leaf, [...lists.issuers, ...lists.trusted, ...sent]);
  const revocation = await revocationOf(built.path, lists.crls, request);
  const found: readonly (readonly CertificateProblem[] | null)[] = [
    [],
    chainProblems(built),
    built.wrongSignature ? [built.wrongSignature] : [],
    request.policy?.keyBits ? policyProblems(leaf, request.policy) : null,
    trustProblems(built.path, lists),
    validityProblems(built.path, request),
    request.host === null ? null : hostProblems(leaf.summary, request.host),
    request.applicationUri === null ? null : uriProblems(leaf.summary, request.applicationUri),
    usageProblems(built.path),
    built.path.length < 2 ? null : revocation.lists,
    built.path.length < 2 ? null : revocation.revoked,
  ];
  const steps = validationSteps.map((step, index) => stepResult(step, index + 1, found[index] ?? null));
  return {
    status: steps.find((step) => step.result === 'failed')?.status ?? 'Good',
    certificate: leaf.summary,
    steps,
    problems: found.flatMap((problems) => problems ?? []),
    path: built.path.map(({ summary }) => ({ thumbprint: summary.thumbprint, subject: summary.subject })),
  };
}

const isWarning = (problem: CertificateProblem): boolean => problem.status === 'Good';

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

function malformed(says: string): CertificateValidation {
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

/** One sentence for a problem, with the real names and dates in it. */
export function sayProblem(problem: CertificateProblem): string {
  switch (problem.kind) {
    case 'cert-malformed':
      return problem.says;
    case 'chain-incomplete':
      return `The issuer ${problem.missingIssuer} is nowhere to be found.`;
    case 'signature-wrong':
      return `The signature was not made with the key of ${problem.issuer}.`;
    case 'key-below-policy':
      return problem.says;
    case 'not-trusted':
      return `${problem.subject} is not in the trusted list, nor is an issuer of it.`;
    case 'wrong-list':
      return problem.says;
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
    case 'usage-wrong':
      return problem.says;
    case 'crl-missing':
      return `There is no CRL of ${problem.issuer}.`;
    case 'crl-stale':
      return `The CRL of ${problem.issuer} should have been replaced by ${dayOf(problem.nextUpdate)}.`;
    case 'revoked':
      return `Revoked by ${problem.issuer} on ${dayOf(problem.since)}.`;
    case 'issuer-revoked':
      return `The issuer ${problem.subject} was revoked by ${problem.issuer} on ${dayOf(problem.since)}.`;
  }
}

interface ReadTrustList {
  readonly trusted: readonly Certificate[];
  readonly issuers: readonly Certificate[];
  readonly crls: readonly X509Crl[];
}

async function readTrustList(list: TrustList): Promise<ReadTrustList> {
  return {
    trusted: await readAll(list.trusted),
    issuers: await readAll(list.issuers),
    crls: list.crls.flatMap(readCrl),
  };
}

async function readAll(ders: readonly Uint8Array[]): Promise<readonly Certificate[]> {
  const results = await Promise.all(ders.map(readCertificate));
  return results.flatMap((result) => (result.ok ? [result.certificate] : []));
}

function readCrl(der: Uint8Array): readonly X509Crl[] {
  try {
    return [new X509Crl(Uint8Array.from(der))];
  } catch {
    return [];
  }
}

interface BuiltPath {
  readonly path: readonly Certificate[];
  readonly complete: boolean;
  readonly wrongSignature: CertificateProblem | null;
}

/** Deepest chain that is followed. */
const longestPath = 8;

/** Follows issuers by name and signature up to a self-issued certificate (RFC 5280 §6.1). */
async function buildPath(leaf: Certificate, candidates: readonly Certificate[]): Promise<BuiltPath> {
  const path = [leaf];
  let wrongSignature: CertificateProblem | null = null;
  for (let current = leaf; path.length < longestPath;) {
    if (current.summary.selfIssued) {
      if (!(await isSignedBy(current, current))) wrongSignature = signatureProblem(current);
      return { path, complete: true, wrongSignature };
    }
    const named = candidates.filter(({ parsed }) => isNamed(parsed.subjectName, current.parsed.issuerName));
    const issuer = await firstThatSigned(current, named);
    if (!issuer) {
      if (named.length > 0) wrongSignature = signatureProblem(current);
      return { path, complete: named.length > 0, wrongSignature };
    }
    if (path.includes(issuer)) break;
    path.push(issuer);
    current = issuer;
  }
  return { path, complete: false, wrongSignature };
}

interface EncodedName {
  toArrayBuffer(): ArrayBuffer;
}

const isNamed = (subject: EncodedName, issuer: EncodedName): boolean =>
  sameBytes(subject.toArrayBuffer(), issuer.toArrayBuffer());

async function firstThatSigned(
  certificate: Certificate,
  candidates: readonly Certificate[],
): Promise<Certificate | null> {
  for (const candidate of candidates) if (await isSignedBy(certificate, candidate)) return candidate;
  return null;
}

async function isSignedBy(certificate: Certificate, issuer: Certificate): Promise<boolean> {
  try {
    return await certificate.parsed.verify({ publicKey: issuer.parsed.publicKey, signatureOnly: true });
  } catch {
    return false;
  }
}

function signatureProblem({ summary }: Certificate): CertificateProblem {
  return {
    kind: 'signature-wrong',
    status: 'BadCertificateInvalid',
    subject: summary.subject,
    thumbprint: summary.thumbprint,
    issuer: summary.issuer,
  };
}

function chainProblems({ path, complete }: BuiltPath): readonly CertificateProblem[] {
  const last = path.at(-1);
  if (complete || !last) return [];
  const { subject, thumbprint, issuer, authorityKeyId } = last.summary;
  return [
    {
      kind: 'chain-incomplete',
      status: 'BadCertificateChainIncomplete',
      subject,
      thumbprint,
      missingIssuer: issuer,
      missingKeyId: authorityKeyId,
    },
  ];
}

function policyProblems({ summary }: Certificate, policy: SecurityPolicy): readonly CertificateProblem[] {
  const { keyBits, keyType, signatureHash, subject, thumbprint } = summary;
  const problem = (says: string): CertificateProblem => ({
    kind: 'key-below-policy',
    status: 'BadCertificatePolicyCheckFailed',
    subject,
    thumbprint,
    policy: policy.name,
    says,
  });
  if (!policy.keyBits) return [];
  if (keyType !== 'RSA') return [problem(`${policy.name} needs an RSA key; this one is of another kind.`)];
  const { least, most } = policy.keyBits;
  if (keyBits < least || keyBits > most)
    return [problem(`${policy.name} wants a key of ${least} to ${most} bits; this one has ${keyBits}.`)];
  if (!policy.certificateHashes.includes(signatureHash))
    return [
      problem(
        `${policy.name} wants a signature with ${policy.certificateHashes.join(' or ')}; this one has ${signatureHash}.`,
      ),
    ];
  return [];
}

function trustProblems(path: readonly Certificate[], lists: ReadTrustList): readonly CertificateProblem[] {
  const leaf = path[0];
  if (!leaf) return [];
  const isIn = (list: readonly Certificate[], { summary }: Certificate): boolean =>
    list.some((listed) => listed.summary.sha256 === summary.sha256);
  if (path.some((certificate) => isIn(lists.trusted, certificate))) return [];
  const { subject, thumbprint, issuer, selfIssued } = leaf.summary;
  const notTrusted: CertificateProblem = {
    kind: 'not-trusted',
    status: 'BadCertificateUntrusted',
    subject,
    thumbprint,
    issuer,
    selfIssued,
  };
  const misplaced = path.find((certificate) => isIn(lists.issuers, certificate));
  if (!misplaced) return [notTrusted];
  const says =
    misplaced === leaf
      ? `${subject} lies in the issuers list, where it gives no trust; it belongs into the trusted list.`
      : `The issuer ${misplaced.summary.subject} lies only in the issuers list: it completes the chain and gives no trust.`;
  return [
    {
      kind: 'wrong-list',
      status: 'BadCertificateUntrusted',
      subject: misplaced.summary.subject,
      thumbprint: misplaced.summary.thumbprint,
      says,
    },
    notTrusted,
  ];
}

function validityProblems(
  path: readonly Certificate[],
  { at, warnDays }: ValidationRequest,
): readonly CertificateProblem[] {
  return path.flatMap(({ summary }, index): CertificateProblem[] => {
    const { subject, thumbprint, notBefore, notAfter } = summary;
    const outside = at < notBefore || at > notAfter;
    if (outside && index > 0)
      return [
        { kind: 'issuer-expired', status: 'BadCertificateIssuerTimeInvalid', subject, thumbprint, notBefore, notAfter },
      ];
    if (at > notAfter) return [{ kind: 'expired', status: 'BadCertificateTimeInvalid', subject, thumbprint, notAfter }];
    if (at < notBefore)
      return [{ kind: 'not-yet-valid', status: 'BadCertificateTimeInvalid', subject, thumbprint, notBefore }];
    const days = Math.floor((Date.parse(notAfter) - Date.parse(at)) / dayMs);
    return days < warnDays ? [{ kind: 'expires-soon', status: 'Good', subject, thumbprint, notAfter, days }] : [];
  });
}

function hostProblems(summary: CertificateSummary, used: string): readonly CertificateProblem[] {
  const made = [...summary.dnsNames, ...summary.ipAddresses];
  const wanted = used.toLowerCase();
  const fits =
    summary.ipAddresses.includes(wanted) || summary.dnsNames.some((name) => dnsNameFits(name.toLowerCase(), wanted));
  const { subject, thumbprint } = summary;
  return fits
    ? []
    : [{ kind: 'host-mismatch', status: 'BadCertificateHostNameInvalid', subject, thumbprint, used, made }];
}

/** RFC 9525 §6.3: a wildcard stands for exactly the leftmost label. */
function dnsNameFits(name: string, host: string): boolean {
  if (name === host) return true;
  return name.startsWith('*.') && host.includes('.') && host.slice(host.indexOf('.')) === name.slice(1);
}

function uriProblems(
  { applicationUris, subject, thumbprint }: CertificateSummary,
  expected: string,
): readonly CertificateProblem[] {
  return applicationUris.length === 1 && applicationUris[0] === expected
    ? []
    : [
        {
          kind: 'uri-mismatch',
          status: 'BadCertificateUriInvalid',
          subject,
          thumbprint,
          expected,
          found: applicationUris,
        },
      ];
}

const leafUsages = ['digitalSignature', 'nonRepudiation', 'keyEncipherment', 'dataEncipherment'];

/** Part 6 §6.2.2: what an application's certificate must be allowed to do; its issuers must be allowed to sign. */
function usageProblems(path: readonly Certificate[]): readonly CertificateProblem[] {
  return path.flatMap(({ summary }, index): CertificateProblem[] => {
    const ofIssuer = index > 0;
    const says = ofIssuer ? issuerUsageFault(summary, index - 1) : leafUsageFault(summary);
    if (!says) return [];
    const status = ofIssuer ? 'BadCertificateIssuerUseNotAllowed' : 'BadCertificateUseNotAllowed';
    return [{ kind: 'usage-wrong', status, subject: summary.subject, thumbprint: summary.thumbprint, says, ofIssuer }];
  });
}

function leafUsageFault(summary: CertificateSummary): string | null {
  const missing = leafUsages.filter((usage) => !summary.keyUsages.includes(usage));
  if (missing.length > 0) return `The key usage lacks ${missing.join(', ')}.`;
  const extended = summary.extendedKeyUsages;
  if (!extended.includes('serverAuth') && !extended.includes('clientAuth'))
    return 'The extended key usage allows neither serverAuth nor clientAuth.';
  return null;
}

function issuerUsageFault(summary: CertificateSummary, below: number): string | null {
  if (!summary.isAuthority) return `${summary.subject} is no authority (basic constraints).`;
  if (summary.keyUsages.length > 0 && !summary.keyUsages.includes('keyCertSign'))
    return `${summary.subject} may not sign certificates (key usage).`;
  if (summary.pathLength !== null && below > summary.pathLength)
    return `${summary.subject} allows ${summary.pathLength} authorities below it; there are ${below}.`;
  return null;
}

/** Steps 10 and 11: a usable CRL for every issuer in the path, and nothing in the path on it. */
async function revocationOf(
  path: readonly Certificate[],
  crls: readonly X509Crl[],
  { at, crlsDemanded }: ValidationRequest,
): Promise<{ lists: readonly CertificateProblem[]; revoked: readonly CertificateProblem[] }> {
  const lists: CertificateProblem[] = [];
  const revoked: CertificateProblem[] = [];
  for (const [index, issuer] of path.entries()) {
    const below = path[index - 1];
    if (!below) continue;
    const ofIssuer = index > 1;
    const about = {
      subject: below.summary.subject,
      thumbprint: below.summary.thumbprint,
      issuer: issuer.summary.subject,
    };
    const status = ofIssuer ? 'BadCertificateIssuerRevocationUnknown' : 'BadCertificateRevocationUnknown';
    const crl = await newestCrlOf(issuer, crls);
    if (!crl) {
      if (crlsDemanded) lists.push({ kind: 'crl-missing', status, ...about, ofIssuer });
      continue;
    }
    const nextUpdate = crl.nextUpdate?.toISOString();
    if (nextUpdate && nextUpdate < at) lists.push({ kind: 'crl-stale', status, ...about, nextUpdate, ofIssuer });
    const entry = crl.findRevoked(below.parsed);
    if (entry) {
      const since = entry.revocationDate.toISOString();
      revoked.push(
        ofIssuer
          ? { kind: 'issuer-revoked', status: 'BadCertificateIssuerRevoked', ...about, since }
          : { kind: 'revoked', status: 'BadCertificateRevoked', ...about, since },
      );
    }
  }
  return { lists, revoked };
}

async function newestCrlOf(issuer: Certificate, crls: readonly X509Crl[]): Promise<X509Crl | null> {
  let newest: X509Crl | null = null;
  for (const crl of crls) {
    if (!isNamed(crl.issuerName, issuer.parsed.subjectName) || !(await isCrlSignedBy(crl, issuer))) continue;
    if (!newest || crl.thisUpdate > newest.thisUpdate) newest = crl;
  }
  return newest;
}

async function isCrlSignedBy(crl: X509Crl, issuer: Certificate): Promise<boolean> {
  try {
    return await crl.verify({ publicKey: issuer.parsed });
  } catch {
    return false;
  }
}
