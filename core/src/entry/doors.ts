import type { ClientApplication, Link } from '../plant/plant.js';
import { securityPolicyOf, strengthOfMode } from '../ua/security-policies.js';
import type { SecurityMode, SecurityPolicy } from '../ua/security-policies.js';
import { issuedWords, secretCover } from '../ua/user-tokens.js';
import type { SecretCover, TokenType } from '../ua/user-tokens.js';
import { chooseEndpoint, tokenTypeOf, wishOf } from './choose-endpoint.js';
import type { EndpointChoice } from './choose-endpoint.js';
import { isOverTcp } from './endpoint.js';
import type { OfferedEndpoint } from './endpoint.js';
import { belowFloor, hasShortKey, isSecureEnough } from './floor.js';
import type { EntryFloor } from './floor.js';

/** A way into a server: a policy, a mode, and a kind of user that is taken there. */
export interface Door {
  /** The policy’s name; its URI where it is not known. */
  readonly policy: string;
  readonly mode: SecurityMode;
  readonly token: TokenType;
}

/** A door as a server has it. */
export interface OfferedDoor extends Door {
  /** What keeps a password, or a token that is as good as one, from being read on the way; null: none is sent. */
  readonly cover: SecretCover['by'] | null;
  /** What token is wanted, and who issues it; null: none, or that is not known. */
  readonly issued: string | null;
  /** Why it is better closed; the gravest first. */
  readonly weaknesses: readonly DoorWeakness[];
}

export const doorWeaknesses = [
  'no security',
  'password in clear',
  'token in clear',
  'deprecated policy',
  'unknown policy',
  'short key',
  'below the floor',
  'anonymous',
  'signed only',
] as const;
export type DoorWeakness = (typeof doorWeaknesses)[number];

/** A client that goes through a server’s doors for a link. */
export interface LinkAtDoors {
  readonly id: string;
  readonly name: string;
  readonly client: Pick<ClientApplication, 'id' | 'name' | 'securityPolicies' | 'securityModes'>;
  readonly link: Pick<Link, 'chosenEndpoint' | 'identity' | 'floor'>;
  /** What the plant accepts for this link. */
  readonly floor: EntryFloor;
}

/** A server as it described itself when it was asked last, with the links that go there. */
export interface ServerDoors {
  readonly id: string;
  readonly name: string;
  readonly endpoints: readonly OfferedEndpoint[];
  readonly links: readonly LinkAtDoors[];
}

/** One word for a door, to compare doors by. */
export const doorKey = ({ policy, mode, token }: Door): string => `${policy}|${mode}|${token}`;

/** RSA keys below this are weak, whatever the plant accepts (Part 7: the least of every policy that is not deprecated). */
const shortKeyBits = 2048;

/** The doors of a server over opc.tcp, each once, however many addresses it is offered at; the best first. */
export function doorsOf(endpoints: readonly OfferedEndpoint[], floor: EntryFloor): readonly OfferedDoor[] {
  const doors = new Map<string, OfferedDoor>();
  for (const endpoint of endpoints) {
    if (!isOverTcp(endpoint)) continue;
    for (const token of endpoint.userTokens) {
      const isSecret = token.tokenType === 'UserName' || token.tokenType === 'IssuedToken';
      const cover = isSecret ? secretCover(endpoint, token).by : null;
      const door: Door = { policy: policyNameOf(endpoint), mode: endpoint.securityMode, token: token.tokenType };
      const weaknesses = weaknessesOf(endpoint, token.tokenType, cover, floor);
      const known = doors.get(doorKey(door));
      if (!known || weaknesses.length > known.weaknesses.length)
        doors.set(doorKey(door), {
          ...door,
          cover,
          issued: token.issued ? issuedWords(token.issued) : null,
          weaknesses,
        });
    }
  }
  return [...doors.values()].sort((left, right) => rankOf(right) - rankOf(left));
}

export const policyNameOf = ({ securityPolicyUri }: Pick<OfferedEndpoint, 'securityPolicyUri'>): string =>
  securityPolicyOf(securityPolicyUri)?.name ?? securityPolicyUri;

function weaknessesOf(
  endpoint: OfferedEndpoint,
  token: TokenType,
  cover: SecretCover['by'] | null,
  floor: EntryFloor,
): readonly DoorWeakness[] {
  const policy = securityPolicyOf(endpoint.securityPolicyUri);
  const met: Readonly<Record<DoorWeakness, boolean>> = {
    'no security': endpoint.securityMode === 'None',
    'password in clear': cover === 'nothing' && token === 'UserName',
    // Whoever has it signs in with it: it is borne, not proved.
    'token in clear': cover === 'nothing' && token === 'IssuedToken',
    'deprecated policy': isDeprecated(policy),
    'unknown policy': policy === null,
    'short key': hasShortKey(endpoint, shortKeyBits),
    'below the floor': belowFloor(endpoint, floor) !== null || !floor.tokens.includes(token),
    anonymous: token === 'Anonymous',
    'signed only': endpoint.securityMode === 'Sign',
  };
  return doorWeaknesses.filter((weakness) => met[weakness]);
}

/** Whether a door is better closed. That messages are signed only is told, and is no reason by itself. */
export const isWeakDoor = ({ weaknesses }: OfferedDoor): boolean =>
  weaknesses.some((weakness) => weakness !== 'signed only');

function rankOf({ policy, mode, token }: Door): number {
  const known = policyByName(policy);
  const strength = known?.strength ?? 0;
  return (
    strengthOfMode(mode) * 1000 + (isDeprecated(known) ? 0 : 500) + strength * 10 + (token === 'Anonymous' ? 0 : 1)
  );
}

const isDeprecated = (policy: SecurityPolicy | null): boolean => (policy?.deprecatedSince ?? null) !== null;

const policyByName = (name: string): SecurityPolicy | null =>
  securityPolicyOf(`http://opcfoundation.org/UA/SecurityPolicy#${name}`);

/** How a link gets into its server. */
export interface Passage {
  /** null: it has no endpoint to take. */
  readonly door: Door | null;
  /** Why it does not get in, or must not; null: it does. */
  readonly fault: string | null;
  readonly choice: EndpointChoice<OfferedEndpoint>;
}

/** The door that a link takes, of those that are offered. */
export function passageOf(endpoints: readonly OfferedEndpoint[], { client, link, floor }: LinkAtDoors): Passage {
  const choice = chooseEndpoint(endpoints, wishOf({ client, link }, floor));
  const { chosen, token } = choice;
  if (!chosen) return { door: null, fault: 'It has no endpoint in common with the server.', choice };
  const type = tokenTypeOf(link.identity);
  const door: Door = { policy: policyNameOf(chosen), mode: chosen.securityMode, token: type };
  const says = (fault: string | null): Passage => ({ door: token ? door : null, fault, choice });
  if (!token) return says('Its kind of user is not taken there.');
  if (!isSecureEnough(chosen.securityMode, link.floor))
    return says(`It must be ${link.floor}, and that endpoint is not.`);
  if (type === 'UserName' && secretCover(chosen, token).by === 'nothing')
    return says('Its password would cross the network in clear.');
  if (type === 'Certificate' && chosen.securityMode === 'None')
    return says('Without security, nothing proves at which server its user certificate signs in.');
  return says(null);
}
