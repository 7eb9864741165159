import type { AccessToken } from './access-check.js';
import type { ToldAccount } from './account-token.js';
import { checkComRight } from './com-rights.js';
import type { ComPermission, ComRight } from './com-rights.js';
import { aceTypes, controlBits, noData } from './descriptor.js';
import type { Ace, SecurityDescriptor } from './descriptor.js';
import type { DcomApplication } from './settings.js';
import { nameOfSid } from './sid.js';
import type { Sid } from './sid.js';

/** One permission that becomes another. */
export interface PermissionChange {
  /** Such as “Launch permission of Lehr data”. */
  readonly what: string;
  readonly path: string;
  readonly name: string;
  /** null: it is not there. */
  readonly before: SecurityDescriptor | null;
  readonly after: SecurityDescriptor;
  /** What is added and taken away, each a sentence. */
  readonly says: readonly string[];
}

export const ole = 'HKEY_LOCAL_MACHINE\\SOFTWARE\\Microsoft\\Ole';
export const appIds = 'HKEY_LOCAL_MACHINE\\SOFTWARE\\Classes\\AppID';
export const administrators: Sid = 'S-1-5-32-544';
/** Execute, with launch and activate, or access, from another machine (MS-DCOM 2.2.28.2.1). */
export const farMask: Readonly<Record<ComPermission, number>> = { launch: 0x15, access: 0x05 };
export const farBits: Readonly<Record<ComPermission, number>> = { launch: 0x14, access: 0x04 };
export const nearBits: Readonly<Record<ComPermission, number>> = { launch: 0x0a, access: 0x02 };
export const execute = 0x01;
export const neededRights: Readonly<Record<ComPermission, readonly ComRight[]>> = {
  launch: ['launch far', 'activate far'],
  access: ['access far'],
};
export const permissions = ['launch', 'access'] as const;
/** Where permissions stand: key and value. */
export const placeOf = (permission: ComPermission, application: Pick<DcomApplication, 'appId'> | null) =>
  application
    ? {
        path: `${appIds}\\${application.appId}`,
        name: permission === 'launch' ? 'LaunchPermission' : 'AccessPermission',
      }
    : { path: ole, name: permission === 'launch' ? 'MachineLaunchRestriction' : 'MachineAccessRestriction' };
export const titles: Readonly<Record<ComPermission, string>> = { launch: 'Launch', access: 'Access' };

/** Who is kept out all the same: by the denial of a group, which may stand there for others’ sake and is left to people. */
export function stillDenied(
  descriptor: SecurityDescriptor | null,
  permission: ComPermission,
  accounts: readonly ToldAccount[],
  where: string,
  nameWords: (sid: Sid) => string,
): readonly string[] {
  if (!descriptor) return [];
  return accounts.flatMap(({ name, token }) => {
    const denial = denialOf(descriptor, permission, token);
    return denial
      ? `${where} denies ${nameWords(denial.sid)}, and ${name} belongs to that: take the account out of the group, or the denial away.`
      : [];
  });
}

/** The entry by which a descriptor alone denies somebody a right that links need. */
export function denialOf(
  descriptor: SecurityDescriptor,
  permission: ComPermission,
  token: AccessToken,
): Ace | undefined {
  const only = { own: descriptor, byDefault: null, restriction: null, policy: null };
  return neededRights[permission]
    .map((right) => checkComRight(only, token, right).entry?.ace)
    .find((ace) => ace?.type === aceTypes.denied);
}

/** What somebody is called: an account by its name, somebody well known by that, else the SID. */
export const namesOf =
  (accounts: readonly ToldAccount[]) =>
  (sid: Sid): string =>
    nameOfSid(sid) ?? (accounts.find(({ token }) => token.user === sid)?.name || sid);
export const entryFor = (sid: Sid, mask: number): Ace => ({
  type: aceTypes.allowed,
  flags: 0,
  mask,
  sid,
  objectType: null,
  inheritedObjectType: null,
  data: noData,
});
export const descriptorOf = (dacl: readonly Ace[]): SecurityDescriptor => ({
  control: controlBits.selfRelative | controlBits.daclPresent,
  owner: administrators,
  group: administrators,
  dacl,
  sacl: null,
});
