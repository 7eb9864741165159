import type { LinkAtDoors, ServerDoors } from '../entry/doors.js';
import type { EndpointDescription } from '../entry/endpoint.js';
import { noFloor } from '../entry/floor.js';
import type { SecurityMode, SecurityPolicyName } from '../ua/security-policies.js';
import type { TokenType } from '../ua/user-tokens.js';
import { endpoint } from './builders.js';

/** An endpoint that takes some kinds of users, each token protected by the endpoint's own policy. */
export const takes = (
  policy: SecurityPolicyName,
  securityMode: SecurityMode,
  ...tokens: readonly TokenType[]
): EndpointDescription =>
  endpoint(policy, securityMode, {
    userTokens: tokens.map((tokenType) => ({ policyId: tokenType, tokenType, securityPolicyUri: '' })),
    ...(securityMode === 'None' ? { certificate: null } : {}),
  });

/** A link of a client, signing in by a user unless it is said to be anonymous. */
export const linkOf = (
  id: string,
  policies: readonly SecurityPolicyName[],
  differs: Partial<LinkAtDoors['link']> & { readonly clientId?: string; readonly anonymous?: true } = {},
): LinkAtDoors => {
  const { clientId = `${id}-client`, anonymous, ...link } = differs;
  return {
    id,
    name: id,
    client: {
      id: clientId,
      name: clientId,
      securityPolicies: policies,
      securityModes: ['None', 'Sign', 'SignAndEncrypt'],
    },
    link: {
      chosenEndpoint: null,
      identity: anonymous ? { kind: 'anonymous' } : { kind: 'user', userName: 'somebody' },
      floor: 'any',
      ...link,
    },
    floor: noFloor,
  };
};

export const serverOf = (
  id: string,
  endpoints: readonly EndpointDescription[],
  ...links: readonly LinkAtDoors[]
): ServerDoors => ({ id, name: id, endpoints, links });
