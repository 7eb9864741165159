import { securityPolicyOf } from './security-policies.js';
import type { SecurityMode, SecurityPolicy } from './security-policies.js';

/** Kinds of user identity tokens (UserTokenType, Part 4 §7.41). */
export const tokenTypes = ['Anonymous', 'UserName', 'Certificate', 'IssuedToken'] as const;
export type TokenType = (typeof tokenTypes)[number];

/** Kinds of user tokens, as people say them. */
export const tokenWords: Readonly<Record<TokenType, string>> = {
  Anonymous: 'anonymous',
  UserName: 'user name and password',
  Certificate: 'user certificate',
  IssuedToken: 'issued token',
};

/** A kind of user token that an endpoint takes (Part 4 §7.41). */
export interface UserTokenPolicy {
  readonly policyId: string;
  readonly tokenType: TokenType;
  /** The policy by which the token’s secret is protected; empty: that of the endpoint. */
  readonly securityPolicyUri: string;
}

/** What keeps the secret of a user token from being read on the way. */
export type SecretCover =
  { readonly by: 'token'; readonly policy: SecurityPolicy } | { readonly by: 'channel' } | { readonly by: 'nothing' };

/**
 * How a password would cross the network: encrypted by the policy of the token, or, where it names none, by the one of the
 * endpoint; where that is None, by the channel if its mode encrypts (Part 4 §7.40.4). A policy that is not known counts
 * as none.
 */
export function secretCover(
  endpoint: { readonly securityPolicyUri: string; readonly securityMode: SecurityMode },
  token: Pick<UserTokenPolicy, 'securityPolicyUri'>,
): SecretCover {
  const policy = securityPolicyOf(token.securityPolicyUri || endpoint.securityPolicyUri);
  if (policy && policy.strength > 0) return { by: 'token', policy };
  return endpoint.securityMode === 'SignAndEncrypt' ? { by: 'channel' } : { by: 'nothing' };
}
