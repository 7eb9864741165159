import type { SecurityFloor } from '../plant/plant.js';
import type { Instant } from '../time.js';
import { securityPolicies, securityPolicyOf, strengthOfMode } from '../ua/security-policies.js';
import type { SecurityMode, SecurityPolicyName } from '../ua/security-policies.js';
import { tokenTypes, tokenWords } from '../ua/user-tokens.js';
import type { TokenType } from '../ua/user-tokens.js';
import type { OfferedEndpoint } from './endpoint.js';

/** The least that the plant accepts of an endpoint and of who signs in there. */
export interface EntryFloor {
  /** Policies that are weaker are not accepted. */
  readonly policy: SecurityPolicyName;
  readonly mode: SecurityMode;
  readonly tokens: readonly TokenType[];
  /** Least length of an RSA key in a server’s certificate; 0: any. */
  readonly keyBits: number;
}

/** Accepts everything. */
export const noFloor: EntryFloor = { policy: 'None', mode: 'None', tokens: tokenTypes, keyBits: 0 };

/** Whether a floor keeps nothing out. */
export const acceptsAll = ({ policy, mode, tokens, keyBits }: EntryFloor): boolean =>
  policy === 'None' && mode === 'None' && keyBits === 0 && tokenTypes.every((token) => tokens.includes(token));

/** For one server or one link, until a day, another floor holds than for the plant. */
export interface EntryException {
  readonly id: string;
  readonly of: 'server' | 'link';
  /** The server or the link. */
  readonly subjectId: string;
  readonly floor: EntryFloor;
  readonly reason: string;
  /** From then on it is over. */
  readonly until: Instant;
  readonly by: string;
}

/** A floor, and the exception that it comes from; null: it is the plant’s own. */
export interface FloorInForce {
  readonly floor: EntryFloor;
  readonly exception: EntryException | null;
}

/** The floor that holds for a link: an exception of its own goes before one of its server, and that before the plant’s floor. */
export function floorFor(
  ids: { readonly linkId: string; readonly serverId: string },
  floor: EntryFloor,
  exceptions: readonly EntryException[],
  at: Instant,
): FloorInForce {
  const holds = ({ until }: EntryException): boolean => Date.parse(until) > Date.parse(at);
  const exception =
    exceptions.find((one) => one.of === 'link' && one.subjectId === ids.linkId && holds(one)) ??
    exceptions.find((one) => one.of === 'server' && one.subjectId === ids.serverId && holds(one)) ??
    null;
  return { floor: exception?.floor ?? floor, exception };
}

const leastModes: Readonly<Record<SecurityFloor, SecurityMode>> = {
  any: 'None',
  signed: 'Sign',
  encrypted: 'SignAndEncrypt',
};

/** Whether a mode is what a link itself must have. */
export const isSecureEnough = (mode: SecurityMode, floor: SecurityFloor): boolean =>
  strengthOfMode(mode) >= strengthOfMode(leastModes[floor]);

/** Why an endpoint is below a floor, whoever signs in there; null: it is not. */
export function belowFloor(endpoint: OfferedEndpoint, floor: EntryFloor): string | null {
  const policy = securityPolicyOf(endpoint.securityPolicyUri);
  if ((policy?.strength ?? 0) < securityPolicies[floor.policy].strength)
    return `The plant accepts no policy below ${floor.policy}.`;
  if (strengthOfMode(endpoint.securityMode) < strengthOfMode(floor.mode))
    return `The plant accepts no mode below ${floor.mode}.`;
  if (hasShortKey(endpoint, floor.keyBits))
    return `The plant accepts no RSA key below ${floor.keyBits} bits; the server’s has ${endpoint.certificate?.keyBits ?? 0}.`;
  return null;
}

/** Whether the server shows an RSA key of fewer bits. */
export const hasShortKey = ({ certificate, securityMode }: OfferedEndpoint, bits: number): boolean =>
  securityMode !== 'None' && certificate?.keyType === 'RSA' && certificate.keyBits < bits;

/** `Basic256Sha256 or better, encrypted, by user name and password, RSA keys of 2048 bits or more` */
export function sayFloor({ policy, mode, tokens, keyBits }: EntryFloor): string {
  const clauses = [
    policy === 'None' ? 'any policy' : `${policy} or better`,
    mode === 'None' ? 'any mode' : mode === 'Sign' ? 'signed' : 'encrypted',
    tokens.length === tokenTypes.length
      ? 'any kind of user'
      : `by ${tokens.map((token) => tokenWords[token]).join(' or ')}`,
  ];
  return [...clauses, ...(keyBits > 0 ? [`RSA keys of ${keyBits} bits or more`] : [])].join(', ');
}
