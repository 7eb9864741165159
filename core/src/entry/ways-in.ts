import { currentPolicies, securityPolicyNames } from '../ua/security-policies.js';
import type { SecurityMode, SecurityPolicyName } from '../ua/security-policies.js';
import { tokenWords } from '../ua/user-tokens.js';
import type { TokenType } from '../ua/user-tokens.js';
import { tokenTypeOf } from './choose-endpoint.js';
import { doorKey, doorsOf, isWeakDoor } from './doors.js';
import type { Door, LinkAtDoors, OfferedDoor, ServerDoors } from './doors.js';
import { isSecureEnough } from './floor.js';
import { endpointsUnder } from './door-rules.js';

/** One thing that is changed so that a link gets in by a better door. */
export type EntryNeed =
  /** The endpoint that a person chose for the link is given up. */
  | { readonly kind: 'free choice'; readonly linkId: string }
  /** A client gets a policy or a mode that it does not have. */
  | { readonly kind: 'client policy'; readonly clientId: string; readonly policy: SecurityPolicyName }
  | { readonly kind: 'client mode'; readonly clientId: string; readonly mode: SecurityMode }
  /** A server opens a door. */
  | { readonly kind: 'open door'; readonly serverId: string; readonly door: Door }
  /** The link signs in by another kind of user. */
  | { readonly kind: 'identity'; readonly linkId: string; readonly token: TokenType };

/** A way into a server, and all that has to be changed first; nothing: it stands open. */
export interface WayIn {
  readonly door: Door;
  readonly needs: readonly EntryNeed[];
}

/** What a change costs those who make it, from a click to a new account: the cheaper way is named first. */
const costs: Readonly<Record<EntryNeed['kind'], number>> = {
  'free choice': 1,
  'client policy': 3,
  'client mode': 2,
  'open door': 3,
  identity: 4,
};
export const costOf = (needs: readonly EntryNeed[]): number => needs.reduce((sum, need) => sum + costs[need.kind], 0);

/** One word for a need, to tell by it whether two are the same change. */
export function needKey(need: EntryNeed): string {
  switch (need.kind) {
    case 'free choice':
      return `choice ${need.linkId}`;
    case 'client policy':
      return `policy ${need.clientId} ${need.policy}`;
    case 'client mode':
      return `mode ${need.clientId} ${need.mode}`;
    case 'open door':
      return `open ${need.serverId} ${doorKey(need.door)}`;
    case 'identity':
      return `identity ${need.linkId} ${need.token}`;
  }
}

/**
 * All ways by which a link could get in by a door that is not weak: through what the server offers, or through a door that
 * it would open for a policy that the client has; the cheapest first.
 * @param seen what the server was seen to offer, where doors are closed of that already
 */
export function waysIn(
  server: Pick<ServerDoors, 'id' | 'endpoints'>,
  link: LinkAtDoors,
  seen: ServerDoors['endpoints'] = server.endpoints,
): readonly WayIn[] {
  const doors = doorsOf(server.endpoints, link.floor);
  const ways: WayIn[] = [];
  const isThere = new Set(doors.map(doorKey));
  for (const door of doors) if (isStrongFor(door, link)) ways.push({ door, needs: needsAt(door, link) });
  for (const door of doorsToOpen(server, link, seen)) {
    if (isThere.has(doorKey(door))) continue;
    const open: EntryNeed = { kind: 'open door', serverId: server.id, door };
    ways.push({ door, needs: [open, ...needsAt(door, link)] });
  }
  return ways.sort((left, right) => costOf(left.needs) - costOf(right.needs));
}

const isStrongFor = (door: OfferedDoor, { link }: LinkAtDoors): boolean =>
  !isWeakDoor(door) && isSecureEnough(door.mode, link.floor);

/** The doors that a server could open for a link: encrypted, for the best policy that the client has, or the best of all. */
function doorsToOpen(
  server: Pick<ServerDoors, 'id' | 'endpoints'>,
  link: LinkAtDoors,
  seen: ServerDoors['endpoints'],
): readonly OfferedDoor[] {
  const own = currentPolicies.find(({ name }) => link.client.securityPolicies.includes(name));
  // No client is told to learn elliptic curves where a policy that every library has is as current.
  const policy = own?.name ?? 'Aes256_Sha256_RsaPss';
  const token = tokenTypeOf(link.link.identity) === 'Anonymous' ? 'UserName' : tokenTypeOf(link.link.identity);
  const rule = { serverId: null, policy, mode: 'SignAndEncrypt', token, to: 'open' } as const;
  const offered = endpointsUnder(server.id, server.endpoints, [rule], seen);
  return doorsOf(offered, link.floor).filter(
    (door) => door.policy === policy && door.mode === rule.mode && door.token === token && isStrongFor(door, link),
  );
}

function needsAt(door: Door, { id, client, link }: LinkAtDoors): readonly EntryNeed[] {
  const { chosenEndpoint: wanted } = link;
  const needs: EntryNeed[] = [];
  if (wanted && (wanted.policy !== door.policy || wanted.mode !== door.mode))
    needs.push({ kind: 'free choice', linkId: id });
  const policy = securityPolicyNames.find((name) => name === door.policy);
  if (policy && !client.securityPolicies.includes(policy))
    needs.push({ kind: 'client policy', clientId: client.id, policy });
  if (!client.securityModes.includes(door.mode))
    needs.push({ kind: 'client mode', clientId: client.id, mode: door.mode });
  if (tokenTypeOf(link.identity) !== door.token) needs.push({ kind: 'identity', linkId: id, token: door.token });
  return needs;
}

/** A need in words, with the names of whom it is about. */
export function sayNeed(need: EntryNeed, nameOf: (id: string) => string): string {
  switch (need.kind) {
    case 'free choice':
      return `${nameOf(need.linkId)} takes the best endpoint instead of the one that was chosen for it.`;
    case 'client policy':
      return `${nameOf(need.clientId)} gets ${need.policy}.`;
    case 'client mode':
      return `${nameOf(need.clientId)} gets the mode ${need.mode}.`;
    case 'open door':
      return `${nameOf(need.serverId)} opens ${sayDoor(need.door)}.`;
    case 'identity':
      return `${nameOf(need.linkId)} signs in by ${tokenWords[need.token]}.`;
  }
}

/** `Basic256Sha256 (SignAndEncrypt), user name and password` */
export const sayDoor = ({ policy, mode, token }: Door): string =>
  `${mode === 'None' ? 'no security' : `${policy} (${mode})`}, ${tokenWords[token]}`;
