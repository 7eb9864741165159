import type { ChosenEndpoint, ClientApplication, Link, LinkIdentity } from '../plant/plant.js';
import { securityPolicyOf, strengthOfMode } from '../ua/security-policies.js';
import type { SecurityPolicy } from '../ua/security-policies.js';
import { tokenWords } from '../ua/user-tokens.js';
import type { TokenType, UserTokenPolicy } from '../ua/user-tokens.js';
import { isOverTcp } from './endpoint.js';
import type { EndpointDescription, OfferedEndpoint } from './endpoint.js';
import { belowFloor } from './floor.js';
import type { EntryFloor } from './floor.js';

export interface PassedOver<Endpoint extends OfferedEndpoint = EndpointDescription> {
  readonly endpoint: Endpoint;
  readonly why: string;
}

export interface EndpointChoice<Endpoint extends OfferedEndpoint = EndpointDescription> {
  readonly chosen: Endpoint | null;
  /** By which the identity signs in there; null: the endpoint takes none of its kind, or there is no endpoint. */
  readonly token: UserTokenPolicy | null;
  readonly passedOver: readonly PassedOver<Endpoint>[];
}

/** Who asks for an endpoint, and what may be taken. */
export interface EntryWish {
  readonly client: Pick<ClientApplication, 'name' | 'securityPolicies' | 'securityModes'>;
  /** The endpoint that a person chose; null: the best. */
  readonly wanted: ChosenEndpoint | null;
  readonly identity: LinkIdentity;
  readonly floor: EntryFloor;
}

/** What a link asks for. */
export const wishOf = (
  { client, link }: { readonly client: EntryWish['client']; readonly link: Pick<Link, 'chosenEndpoint' | 'identity'> },
  floor: EntryFloor,
): EntryWish => ({ client, wanted: link.chosenEndpoint, identity: link.identity, floor });

const tokenTypes = { anonymous: 'Anonymous', user: 'UserName', certificate: 'Certificate' } as const;

/** The kind of token by which an identity signs in. */
export const tokenTypeOf = ({ kind }: LinkIdentity): TokenType => tokenTypes[kind];

/**
 * The endpoint that a link takes: the one that a person chose, or else the strongest that both sides have, that the plant
 * accepts and that lets the link’s identity in. Deprecated policies stand behind all others of the same mode. An endpoint
 * without security stands behind every other one, whomever those let in: nobody is led to it because of a token.
 */
export function chooseEndpoint<Endpoint extends OfferedEndpoint>(
  endpoints: readonly Endpoint[],
  wish: EntryWish,
): EndpointChoice<Endpoint> {
  const passedOver: PassedOver<Endpoint>[] = [];
  const open: { endpoint: Endpoint; token: UserTokenPolicy | null; rank: number }[] = [];
  for (const endpoint of endpoints) {
    const policy = securityPolicyOf(endpoint.securityPolicyUri);
    const why = whyNot(endpoint, policy, wish);
    if (why !== null || !policy) {
      passedOver.push({ endpoint, why: why ?? 'The policy is not known.' });
      continue;
    }
    const token = tokenAt(endpoint, wish);
    open.push({ endpoint, token, rank: rankOf(endpoint, policy) + (token ? tokenRank : 0) });
  }
  open.sort((left, right) => right.rank - left.rank);
  const [best, ...rest] = open;
  return {
    chosen: best?.endpoint ?? null,
    token: best?.token ?? null,
    passedOver: [
      ...passedOver,
      ...rest.map(({ endpoint, token }) => ({
        endpoint,
        why:
          best?.token && !token ? `It does not take ${tokenWords[best.token.tokenType]}.` : 'A stronger one is there.',
      })),
    ],
  };
}

/** The token by which an identity signs in at an endpoint, where it takes one that the plant accepts. */
const tokenAt = ({ userTokens }: OfferedEndpoint, { identity, floor }: EntryWish): UserTokenPolicy | null => {
  const type = tokenTypeOf(identity);
  return (floor.tokens.includes(type) && userTokens.find(({ tokenType }) => tokenType === type)) || null;
};

function whyNot(
  endpoint: OfferedEndpoint,
  policy: SecurityPolicy | null,
  { client, wanted, floor }: EntryWish,
): string | null {
  if (!isOverTcp(endpoint)) return 'It is not reached by opc.tcp.';
  if (!policy) return `The policy ${endpoint.securityPolicyUri} is not known.`;
  if (!client.securityPolicies.includes(policy.name)) return `${client.name} does not have ${policy.name}.`;
  if (!client.securityModes.includes(endpoint.securityMode))
    return `${client.name} does not have the mode ${endpoint.securityMode}.`;
  if (wanted && (wanted.policy !== policy.name || wanted.mode !== endpoint.securityMode))
    return 'Another endpoint was chosen.';
  return belowFloor(endpoint, floor);
}

const tokenRank = 10_000;
const securedRank = 100_000;

const rankOf = ({ securityMode }: OfferedEndpoint, { deprecatedSince, strength }: SecurityPolicy): number =>
  (securityMode === 'None' ? 0 : securedRank) +
  strengthOfMode(securityMode) * 1000 +
  (deprecatedSince === null ? 500 : 0) +
  strength;
