import type { ChosenEndpoint, ClientApplication } from '../plant/plant.js';
import { securityPolicyOf, strengthOfMode } from '../ua/security-policies.js';
import type { SecurityPolicy } from '../ua/security-policies.js';
import type { EndpointDescription } from './facts.js';

export interface PassedOver {
  readonly endpoint: EndpointDescription;
  readonly why: string;
}

export interface EndpointChoice {
  readonly chosen: EndpointDescription | null;
  readonly passedOver: readonly PassedOver[];
}

/**
 * The endpoint that a link takes: the one that a person chose, or else the strongest that both sides have.
 * Deprecated policies stand behind all others of the same mode; the unsecured endpoint stands last.
 */
export function chooseEndpoint(
  endpoints: readonly EndpointDescription[],
  client: ClientApplication,
  wanted: ChosenEndpoint | null,
): EndpointChoice {
  const passedOver: PassedOver[] = [];
  const open: { endpoint: EndpointDescription; rank: number }[] = [];
  for (const endpoint of endpoints) {
    const policy = securityPolicyOf(endpoint.securityPolicyUri);
    const why = whyNot(endpoint, policy, client, wanted);
    if (why !== null || !policy) passedOver.push({ endpoint, why: why ?? 'The policy is not known.' });
    else open.push({ endpoint, rank: rankOf(endpoint, policy) });
  }
  open.sort((left, right) => right.rank - left.rank);
  const [best, ...rest] = open;
  return {
    chosen: best?.endpoint ?? null,
    passedOver: [...passedOver, ...rest.map(({ endpoint }) => ({ endpoint, why: 'A stronger one is there.' }))],
  };
}

function whyNot(
  endpoint: EndpointDescription,
  policy: SecurityPolicy | null,
  client: ClientApplication,
  wanted: ChosenEndpoint | null,
): string | null {
  if (!endpoint.endpointUrl.startsWith('opc.tcp://')) return 'It is not reached by opc.tcp.';
  if (!policy) return `The policy ${endpoint.securityPolicyUri} is not known.`;
  if (!client.securityPolicies.includes(policy.name)) return `${client.name} does not have ${policy.name}.`;
  if (!client.securityModes.includes(endpoint.securityMode))
    return `${client.name} does not have the mode ${endpoint.securityMode}.`;
  if (wanted && (wanted.policy !== policy.name || wanted.mode !== endpoint.securityMode))
    return 'Another endpoint was chosen.';
  return null;
}

function rankOf({ securityMode }: EndpointDescription, { deprecated, strength }: SecurityPolicy): number {
  return strengthOfMode(securityMode) * 100 + (deprecated ? 0 : 50) + strength;
}

/** `Basic256Sha256 (SignAndEncrypt)`; for an endpoint without security: `no security`. */
export function endpointName({
  securityPolicyUri,
  securityMode,
}: Pick<EndpointDescription, 'securityPolicyUri' | 'securityMode'>): string {
  const policy = securityPolicyOf(securityPolicyUri)?.name ?? securityPolicyUri;
  return securityMode === 'None' ? 'no security' : `${policy} (${securityMode})`;
}
