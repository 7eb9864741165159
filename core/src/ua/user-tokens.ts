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
  /** Of an issued token: what it is, and who issues it. What was seen before this was asked for has none. */
  readonly issued?: IssuedTokenPolicy;
}

/** What a server wants of tokens that somebody else issues (Part 4 §7.42, Part 6 §6.5). */
export interface IssuedTokenPolicy {
  /** URI of the token’s profile; empty: the server names none. */
  readonly type: string;
  /** Where it is issued; empty: the server does not say. */
  readonly issuer: string;
}

const profileWords: Readonly<Record<string, string>> = {
  'http://opcfoundation.org/UA/UserToken#JWT': 'a JSON Web Token',
  'http://docs.oasis-open.org/wss/oasis-wss-kerberos-token-profile-1.1': 'a Kerberos ticket',
  'http://docs.oasis-open.org/wss/oasis-wss-saml-token-profile-1.1': 'a SAML token',
};

/** `a JSON Web Token of https://sign-in.works.example`. */
export function issuedWords({ type, issuer }: IssuedTokenPolicy): string {
  const what = profileWords[type] ?? (type === '' ? 'a token of no profile' : `a token by ${type}`);
  return issuer === '' ? `${what}; who issues it is not told` : `${what} of ${issuer}`;
}

const longestIssuer = 300;

/**
 * Reads what a server says of the tokens it takes. A JSON Web Token’s issuer stands in a JSON text, as ua:authorityUrl
 * (Part 6 §6.5.2.2); any other’s stands for itself.
 */
export function readIssuedPolicy(type: string, issuerEndpointUrl: string): IssuedTokenPolicy {
  const told = issuerEndpointUrl.trim();
  let issuer = told;
  if (told.startsWith('{'))
    try {
      const authority = (JSON.parse(told) as Readonly<Record<string, unknown>>)['ua:authorityUrl'];
      issuer = typeof authority === 'string' ? authority : '';
    } catch {
      issuer = '';
    }
  return { type: type.slice(0, longestIssuer), issuer: issuer.slice(0, longestIssuer) };
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
