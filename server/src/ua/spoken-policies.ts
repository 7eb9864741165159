import { SecurityPolicy } from 'node-opcua-client';
import { securityPolicyOf } from '@loyal-hinge/core';
import type { SecurityPolicyName } from '@loyal-hinge/core';

const spoken: Readonly<Partial<Record<SecurityPolicyName, SecurityPolicy>>> = {
  None: SecurityPolicy.None,
  Basic128Rsa15: SecurityPolicy.Basic128Rsa15,
  Basic256: SecurityPolicy.Basic256,
  Basic256Sha256: SecurityPolicy.Basic256Sha256,
  Aes128_Sha256_RsaOaep: SecurityPolicy.Aes128_Sha256_RsaOaep,
  Aes256_Sha256_RsaPss: SecurityPolicy.Aes256_Sha256_RsaPss,
};

/** The library’s own word for a policy; null: no channel can be opened with it from here (it has no elliptic curves). */
export function spokenPolicyOf(uri: string): SecurityPolicy | null {
  const policy = securityPolicyOf(uri);
  return (policy && spoken[policy.name]) ?? null;
}
