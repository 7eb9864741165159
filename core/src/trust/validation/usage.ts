import type { Certificate } from '../certificate.js';
import type { KeyUsage } from '../x509/extensions.js';
import { about } from './problem.js';
import type { CertificateProblem } from './problem.js';

/** Something that an issuer was not allowed to do. */
export interface IssuerFault {
  readonly certificate: Certificate;
  readonly says: string;
}

/** Step 9: the certificate may be used by an application (Part 6 §6.2.2), and its issuers may sign it (RFC 5280 §6.1.4). */
export function usageProblems(
  path: readonly Certificate[],
  isApplication: boolean,
  ...more: readonly (IssuerFault | null)[]
): readonly CertificateProblem[] {
  let problems: readonly CertificateProblem[] = [];
  const add = (certificate: Certificate, says: string | null, ofIssuer: boolean): void => {
    if (says === null) return;
    const status = ofIssuer ? 'BadCertificateIssuerUseNotAllowed' : 'BadCertificateUseNotAllowed';
    problems = [...problems, { kind: 'usage-wrong', status, ...about(certificate), says, ofIssuer }];
  };
  const [leaf] = path;
  if (leaf && isApplication) add(leaf, applicationFault(leaf), false);
  let between = 0;
  for (let index = 1; index < path.length; index += 1) {
    const issuer = path[index] as Certificate;
    add(issuer, issuerFault(issuer, between), true);
    if (!issuer.isSelfIssued) between += 1;
  }
  for (const fault of more) if (fault) add(fault.certificate, fault.says, true);
  return problems;
}

/** What an application must be allowed to do with its key, by the kind of the key (Part 6 §6.2.2). */
export const applicationUsages = (kind: Certificate['publicKey']['kind']): readonly KeyUsage[] =>
  kind === 'RSA' ? rsaUsages : ellipticUsages;

const rsaUsages: readonly KeyUsage[] = ['digitalSignature', 'nonRepudiation', 'keyEncipherment', 'dataEncipherment'];
const ellipticUsages: readonly KeyUsage[] = ['digitalSignature'];
export const [serverAuth, clientAuth] = ['1.3.6.1.5.5.7.3.1', '1.3.6.1.5.5.7.3.2'] as const;

function applicationFault({ extensions, publicKey }: Certificate): string | null {
  const wanted = applicationUsages(publicKey.kind);
  const there = extensions.keyUsages ?? [];
  if (!wanted.every((usage) => there.includes(usage)))
    return `The key usage lacks ${wanted.filter((usage) => !there.includes(usage)).join(', ')}.`;
  const extended = extensions.extendedKeyUsages ?? [];
  return extended.includes(serverAuth) || extended.includes(clientAuth)
    ? null
    : 'The extended key usage allows neither serverAuth nor clientAuth.';
}

function issuerFault(issuer: Certificate, between: number): string | null {
  const { basicConstraints, keyUsages } = issuer.extensions;
  if (!basicConstraints?.isAuthority) return `${issuer.subject.text} is no authority (basic constraints).`;
  if (keyUsages && !keyUsages.includes('keyCertSign'))
    return `${issuer.subject.text} may not sign certificates (key usage).`;
  const { pathLength } = basicConstraints;
  if (pathLength !== null && between > pathLength)
    return `${issuer.subject.text} allows ${pathLength} authorities below it; there are ${between}.`;
  return null;
}
