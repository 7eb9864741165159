import type { AccessToken, DcomSettings } from '@loyal-hinge/core';
import type { Caller } from '@loyal-hinge/classic';

/** An account that a machine knows. */
export interface LocalAccount {
  readonly user: string;
  readonly password: string;
  /** The last part of its SID. */
  readonly rid: number;
  /** SIDs of groups that it is a member of, beside those that everybody is. */
  readonly groups: readonly string[];
}

/** Well-known SIDs (MS-DTYP 2.4.2.4). */
const sids = {
  everyone: 'S-1-1-0',
  network: 'S-1-5-2',
  anonymous: 'S-1-5-7',
  authenticated: 'S-1-5-11',
  users: 'S-1-5-32-545',
  guests: 'S-1-5-32-546',
  administrators: 'S-1-5-32-544',
  localAccount: 'S-1-5-113',
  localAdministrator: 'S-1-5-114',
} as const;
const [administratorRid, guestRid] = [500, 501];

/** Who a caller is to this machine: as the settings of its logon have it. */
export function tokenOf(
  { account }: Pick<Caller, 'account'>,
  accounts: readonly LocalAccount[],
  machineSid: string,
  { isGuestOnly, everyoneIncludesAnonymous, localAccountsKeepRights }: DcomSettings['logon'],
): AccessToken {
  if (!account)
    return {
      user: sids.anonymous,
      groups: everyoneIncludesAnonymous ? [sids.network, sids.everyone] : [sids.network],
      denyOnly: [],
    };
  const known = accounts.find(({ user }) => user.toLowerCase() === account.user.toLowerCase());
  if (!known || isGuestOnly)
    return { user: `${machineSid}-${guestRid}`, groups: [sids.everyone, sids.network, sids.guests], denyOnly: [] };
  const usual = [sids.everyone, sids.network, sids.authenticated, sids.users, sids.localAccount];
  const isAdministrator = known.groups.includes(sids.administrators);
  // Over the network an administrator of this machine alone is cut down, unless the machine says otherwise.
  const isCut = isAdministrator && !localAccountsKeepRights && known.rid !== administratorRid;
  const own = known.groups.filter((sid) => !isCut || sid !== sids.administrators);
  return {
    user: `${machineSid}-${known.rid}`,
    groups: [...usual, ...own, ...(isAdministrator && !isCut ? [sids.localAdministrator] : [])],
    denyOnly: isCut ? [sids.administrators, sids.localAdministrator] : [],
  };
}
