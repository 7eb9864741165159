import {
  CertificateJudge,
  ReadTrustList,
  certificatesIn,
  describeJudgement,
  malformedCertificate,
  readCertificate,
  sayProblem,
  securityPolicies,
  securityPolicyOf,
  oneLine,
} from '@loyal-hinge/core';
import type { CertificateValidation, SecurityPolicy } from '@loyal-hinge/core';
import { CannotRun } from '../cannot-run.js';
import type { Command, Out } from '../command.js';
import { derBlocks, derInFolder } from '../files.js';
import { readOptions } from '../options.js';

const usage = `hinge cert check --cert FILE --trusted DIR [--issuers DIR] [--crls DIR] [--at ISO-TIME]
    [--application-uri URI] [--host NAME] [--policy NAME] [--profile application|chain] [--json]
  Validates a certificate against a trust list, step by step as OPC 10000-4 §6.1.3 says.
  FILE may hold the chain that was sent along behind the certificate. Exit code 0 when Good, 3 when not, 2 when it could not run.`;

const kinds = {
  cert: 'text',
  trusted: 'text',
  issuers: 'text',
  crls: 'text',
  at: 'text',
  'application-uri': 'text',
  host: 'text',
  policy: 'text',
  profile: 'text',
  json: 'flag',
} as const;

const warnDays = 60;

export const check: Command = {
  usage,
  async run(args, out, errors) {
    const { options, rest } = readOptions(args, kinds, usage);
    if (rest.length > 0) throw new CannotRun(`“${rest.join(' ')}” is one word too many.\n\n${usage}`);
    if (options.cert === null) throw new CannotRun(`Say which certificate: --cert FILE.\n\n${usage}`);
    if (options.trusted === null) throw new CannotRun(`Say which list is trusted: --trusted DIR.\n\n${usage}`);
    const profile = profileOf(options.profile);
    const tellOther = (says: string): void => void errors.write(`${oneLine(says)}\n`);
    const [first, ...sent] = derBlocks(options.cert, 'CERTIFICATE', tellOther);
    const list = ReadTrustList.read({
      trusted: derInFolder(options.trusted, 'CERTIFICATE', tellOther),
      issuers: derInFolder(options.issuers, 'CERTIFICATE', tellOther),
      crls: derInFolder(options.crls, 'X509 CRL', tellOther),
    });
    const at = timeOf(options.at);
    const policy = policyOf(options.policy);
    const read = first ? readCertificate(first) : { ok: false as const, says: 'The file holds no certificate.' };
    const validation = read.ok
      ? describeJudgement(
          await new CertificateJudge(list).judge({
            certificate: read.certificate,
            sentIssuers: certificatesIn(sent),
            at,
            applicationUri: options['application-uri'],
            host: options.host,
            policy,
            crlsDemanded: profile === 'application' || options.crls !== null,
            warnDays,
            profile,
          }),
        )
      : malformedCertificate(read.says);
    tell(validation, options.json, out);
    return validation.status === 'Good' ? 0 : 3;
  },
};

function profileOf(given: string | null): 'application' | 'chain' {
  if (given === null || given === 'application') return 'application';
  if (given === 'chain') return 'chain';
  throw new CannotRun(`There is no profile “${given}”; there are application and chain.`);
}

function timeOf(given: string | null): number {
  if (given === null) return Date.now();
  const at = /^\d{4}-\d\d-\d\d(T\d\d:\d\d(:\d\d(\.\d+)?)?(Z|[+-]\d\d:\d\d)?)?$/.test(given)
    ? Date.parse(zoned(given))
    : NaN;
  if (Number.isNaN(at)) throw new CannotRun(`“${given}” is no time. Write it as 2026-03-01T12:00:00Z.`);
  return at;
}

/** A time without a zone is taken as UTC. */
const zoned = (time: string): string => (/T.*(Z|[+-]\d\d:\d\d)$/.test(time) || !time.includes('T') ? time : `${time}Z`);

function policyOf(given: string | null): SecurityPolicy | null {
  if (given === null) return null;
  const policy = securityPolicyOf(given) ?? Object.values(securityPolicies).find(({ name }) => name === given);
  if (!policy)
    throw new CannotRun(
      `There is no security policy “${given}”. Known are ${Object.keys(securityPolicies).join(', ')}.`,
    );
  return policy;
}

function tell({ status, steps, problems, path }: CertificateValidation, json: boolean, out: Out): void {
  if (json) {
    const told = {
      status,
      steps: steps.map(({ step, result, status: stepStatus, says }) => ({
        step,
        result,
        status: stepStatus,
        detail: says,
        certificate: result === 'failed' || result === 'warned' ? certificateOf(stepStatus, says, problems) : null,
      })),
      path: path.map(({ thumbprint }) => thumbprint),
    };
    out.write(`${JSON.stringify(told, null, 2)}\n`);
    return;
  }
  out.write(`${status}\n`);
  for (const { number, step, result, says } of steps)
    out.write(`${String(number).padStart(2)}  ${step.padEnd(16)}${result.padEnd(12)}${oneLine(says)}\n`);
  for (const [index, { subject, thumbprint }] of path.entries())
    out.write(`${index === 0 ? 'path' : '  ↑ '}  ${thumbprint}  ${subject}\n`);
}

const certificateOf = (status: string, says: string, problems: CertificateValidation['problems']): string | null =>
  problems.find((problem) => problem.status === status && sayProblem(problem) === says)?.thumbprint ?? null;
