import type { Link } from '@loyal-hinge/core';
import type { KeptWay } from './ways.js';

/** The id under which the access of push management is kept, beside those of the links. */
export const pushLinkId = (serverId: string): string => `push--${serverId}`;
/** The server whose push management this is; null: it is a link of the plant. */
export const serverOfPushLink = (linkId: string): string | null =>
  isPushLinkId(linkId) ? linkId.slice(pushLinkId('').length) : null;

export const isPushLinkId = (linkId: string): boolean => linkId.startsWith('push--');
/** Push management wants a link like any other: our client to the server, as an administrator, encrypted (Part 12 §7.10.1). */
export function pushLink(way: KeptWay, serverName: string): Link | null {
  const { applicationId, clientId, endpointUrl, userName } = way;
  if (way.way !== 'push' || clientId === null || endpointUrl === null || userName === null) return null;
  return {
    id: pushLinkId(applicationId),
    name: `Push management of ${serverName}`,
    clientId,
    serverId: applicationId,
    endpointUrl,
    pinnedAddress: null,
    chosenEndpoint: null,
    needs: [],
    identity: { kind: 'user', userName },
    floor: 'encrypted',
    kind: 'ua',
    staleAfterMs: 60_000,
  };
}
