import { judgeEndpointUrl } from './endpoint-url.js';
import type { Link, ServerApplication } from '../plant/plant.js';

/**
 * Where a kept password may go: one user at one application, by one way. A password that was given for one target is
 * sent to no other, however the link is changed meanwhile.
 */
export interface PasswordTarget {
  /** ApplicationUri of the server as the plant knows it (Part 4 §7.2); of a classic one, its machine ({@link accountsOf}). */
  readonly applicationUri: string;
  readonly endpointUrl: string;
  /** The one address that is dialled whatever the host resolves to; null: as it resolves. */
  readonly pinnedAddress: string | null;
  readonly userName: string;
}

/** Whose accounts a server takes: its own, or, of a classic one, those of its machine. */
export const accountsOf = ({
  applicationUri,
  machineId,
}: Pick<ServerApplication, 'applicationUri' | 'machineId'>): string =>
  applicationUri === '' ? `classic:${machineId}` : applicationUri;

/** The target of a link that signs in as a user; null: it signs in as nobody. */
export function passwordTargetOf(
  link: Pick<Link, 'endpointUrl' | 'pinnedAddress' | 'identity'>,
  server: Pick<ServerApplication, 'applicationUri' | 'machineId'>,
): PasswordTarget | null {
  if (link.identity.kind !== 'user') return null;
  const { endpointUrl, pinnedAddress, identity } = link;
  return { applicationUri: accountsOf(server), endpointUrl, pinnedAddress, userName: identity.userName };
}

/** Letters of a URL that can’t be seen, and the like, make no other target of it. */
export const isSameTarget = (one: PasswordTarget, other: PasswordTarget): boolean =>
  one.applicationUri === other.applicationUri &&
  tidy(one.endpointUrl) === tidy(other.endpointUrl) &&
  one.pinnedAddress === other.pinnedAddress &&
  one.userName === other.userName;

const tidy = (url: string): string => judgeEndpointUrl(url).cleaned ?? url;

/** Such as “display” at opc.tcp://furnace:4840 (urn:works:furnace). */
export const sayPasswordTarget = ({ applicationUri, endpointUrl, pinnedAddress, userName }: PasswordTarget): string =>
  `“${userName}” at ${endpointUrl}${pinnedAddress === null ? '' : `, address ${pinnedAddress}`} (${applicationUri})`;

/** In what two targets of one link differ, such as: the URL was opc.tcp://a:4840 and is now opc.tcp://b:4840. */
export function sayMovedTarget(before: PasswordTarget, after: PasswordTarget): string {
  const anyAddress = 'whichever the name leads to';
  const moved = [
    ['application', before.applicationUri, after.applicationUri],
    ['URL', before.endpointUrl, after.endpointUrl],
    ['address', before.pinnedAddress ?? anyAddress, after.pinnedAddress ?? anyAddress],
    ['user', `“${before.userName}”`, `“${after.userName}”`],
  ] as const;
  const differing = moved.filter(([, was, is]) => was !== is);
  return differing.map(([what, was, is]) => `the ${what} was ${was} and is now ${is}`).join('; ');
}
