import { securityPolicies, securityPolicyNames, securityPolicyOf } from '../ua/security-policies.js';
import type { SecurityMode, SecurityPolicyName } from '../ua/security-policies.js';
import type { TokenType } from '../ua/user-tokens.js';
import { policyNameOf } from './doors.js';
import type { Door } from './doors.js';
import { isOverTcp } from './endpoint.js';
import type { OfferedEndpoint } from './endpoint.js';

/** Doors that are closed or opened: on one server or all, and all those that fit; null fits any. */
export interface DoorRule {
  readonly serverId: string | null;
  readonly policy: string | null;
  readonly mode: SecurityMode | null;
  readonly token: TokenType | null;
  readonly to: 'closed' | 'open';
}

const isAbout = (rule: DoorRule, serverId: string): boolean => rule.serverId === null || rule.serverId === serverId;

const fits = (rule: DoorRule, { policy, mode, token }: Door): boolean =>
  (rule.policy === null || rule.policy === policy) &&
  (rule.mode === null || rule.mode === mode) &&
  (rule.token === null || rule.token === token);

/**
 * What a server would offer if rules were followed, one after the other. An endpoint whose last kind of user is closed is
 * gone. The same list comes back where no rule changes it. One that is opened is like the server’s others: the same address, the same certificate.
 * @param seen what the server was seen to offer, where doors are closed of that already
 */
export function endpointsUnder(
  serverId: string,
  endpoints: readonly OfferedEndpoint[],
  rules: readonly DoorRule[],
  seen: readonly OfferedEndpoint[] = endpoints,
): readonly OfferedEndpoint[] {
  let offered = endpoints;
  for (const rule of rules)
    if (isAbout(rule, serverId))
      offered = rule.to === 'closed' ? without(offered, rule) : withOpened(offered, rule, seen);
  return offered;
}

function without(endpoints: readonly OfferedEndpoint[], rule: DoorRule): readonly OfferedEndpoint[] {
  let isOther = false;
  const left = endpoints.flatMap((endpoint) => {
    const policy = policyNameOf(endpoint);
    const userTokens = endpoint.userTokens.filter(
      ({ tokenType }) => !fits(rule, { policy, mode: endpoint.securityMode, token: tokenType }),
    );
    if (userTokens.length === endpoint.userTokens.length) return [endpoint];
    isOther = true;
    return userTokens.length === 0 ? [] : [{ ...endpoint, userTokens }];
  });
  return isOther ? left : endpoints;
}

function withOpened(
  endpoints: readonly OfferedEndpoint[],
  { policy, mode, token }: DoorRule,
  seen: readonly OfferedEndpoint[],
): readonly OfferedEndpoint[] {
  const name = securityPolicyNames.find((one) => one === policy);
  const like = seen.find((endpoint) => isOverTcp(endpoint) && endpoint.certificate) ?? seen.find(isOverTcp);
  // A rule that leaves something open names no door, and a server that offers nothing can’t be described.
  if (!name || mode === null || token === null || !like || (mode === 'None') !== (name === 'None')) return endpoints;
  const userToken = { policyId: token.toLowerCase(), tokenType: token, securityPolicyUri: tokenPolicyUri(name, like) };
  const isIt = (endpoint: OfferedEndpoint): boolean =>
    isOverTcp(endpoint) && policyNameOf(endpoint) === name && endpoint.securityMode === mode;
  if (!endpoints.some(isIt))
    return [
      ...endpoints,
      { ...like, securityPolicyUri: securityPolicies[name].uri, securityMode: mode, userTokens: [userToken] },
    ];
  return endpoints.map((endpoint) =>
    !isIt(endpoint) || endpoint.userTokens.some(({ tokenType }) => tokenType === token)
      ? endpoint
      : { ...endpoint, userTokens: [...endpoint.userTokens, userToken] },
  );
}

/** On an endpoint without security the token is to be protected as it is on the server’s others. */
const tokenPolicyUri = (name: SecurityPolicyName, like: OfferedEndpoint): string =>
  name === 'None' && (securityPolicyOf(like.securityPolicyUri)?.strength ?? 0) > 0 ? like.securityPolicyUri : '';
