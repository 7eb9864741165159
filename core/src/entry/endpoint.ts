import type { CertificateSummary } from '../trust/certificate.js';
import { securityPolicyOf } from '../ua/security-policies.js';
import type { SecurityMode } from '../ua/security-policies.js';
import type { UserTokenPolicy } from '../ua/user-tokens.js';

/** An endpoint as a server describes it (Part 4 §7.14). */
export interface EndpointDescription {
  readonly endpointUrl: string;
  readonly applicationUri: string;
  readonly securityPolicyUri: string;
  readonly securityMode: SecurityMode;
  readonly securityLevel: number;
  readonly userTokens: readonly UserTokenPolicy[];
  /** The server's certificate of this endpoint, or null where it has none. */
  readonly certificate: CertificateSummary | null;
}

/** An endpoint as far as it matters to who gets in by it: of the certificate the key alone. */
export type OfferedEndpoint = Omit<EndpointDescription, 'certificate'> & {
  readonly certificate: Pick<CertificateSummary, 'keyType' | 'keyBits'> | null;
};

/** What of an endpoint matters to who gets in by it. */
export const offeredOf = ({ certificate, ...endpoint }: EndpointDescription): OfferedEndpoint => ({
  ...endpoint,
  certificate: certificate && { keyType: certificate.keyType, keyBits: certificate.keyBits },
});

/** `Basic256Sha256 (SignAndEncrypt)`; for an endpoint without security: `no security`; without a mode that is known: the policy alone. */
export function endpointName({
  securityPolicyUri,
  securityMode,
}: {
  readonly securityPolicyUri: string;
  readonly securityMode: SecurityMode | null;
}): string {
  const policy = securityPolicyOf(securityPolicyUri)?.name ?? securityPolicyUri;
  if (securityMode === null) return policy;
  return securityMode === 'None' ? 'no security' : `${policy} (${securityMode})`;
}

/** Whether an endpoint is reached by the binary protocol over TCP (Part 6 §7.2), which is what links use. */
export const isOverTcp = ({ endpointUrl }: Pick<EndpointDescription, 'endpointUrl'>): boolean =>
  endpointUrl.startsWith('opc.tcp://');
