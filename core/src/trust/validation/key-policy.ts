import type { SecurityPolicy } from '../../ua/security-policies.js';
import type { Certificate } from '../certificate.js';
import { about } from './problem.js';
import type { CertificateProblem } from './problem.js';

const keyWords = {
  RSA: 'an RSA key',
  EC: 'a key on an elliptic curve',
  Ed25519: 'an Ed25519 key',
  Ed448: 'an Ed448 key',
} as const;

/** Step 4: key length and signature hash are what the security policy allows (Part 7). */
export function keyPolicyProblems(certificate: Certificate, policy: SecurityPolicy): readonly CertificateProblem[] {
  const says = fault(certificate, policy);
  return says === null
    ? []
    : [
        {
          kind: 'key-below-policy',
          status: 'BadCertificatePolicyCheckFailed',
          ...about(certificate),
          policy: policy.name,
          says,
        },
      ];
}

function fault({ publicKey, signatureAlgorithm }: Certificate, policy: SecurityPolicy): string | null {
  const { key } = policy;
  if (!key) return null;
  if (publicKey.kind !== key.kind) return `${policy.name} needs ${keyWords[key.kind]}; this one is of another kind.`;
  if (key.kind !== 'RSA') return null;
  const { least, most } = key;
  if (publicKey.bits < least || publicKey.bits > most)
    return `${policy.name} requires a key of ${least} to ${most} bits; this one has ${publicKey.bits}.`;
  const hash = 'hash' in signatureAlgorithm ? signatureAlgorithm.hash : 'unknown';
  return policy.certificateHashes.includes(hash)
    ? null
    : `${policy.name} requires a signature with ${policy.certificateHashes.join(' or ')}; this one has ${hash}.`;
}
