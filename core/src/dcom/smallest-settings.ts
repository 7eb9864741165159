import type { AccessToken } from './access-check.js';
import type { ToldAccount } from './account-token.js';
import { checkComRight, permissionOf } from './com-rights.js';
import type { ComPermission, ComRight } from './com-rights.js';
import { aceTypes, controlBits, noData } from './descriptor.js';
import type { Ace, SecurityDescriptor } from './descriptor.js';
import { descriptorBytes } from './descriptor-binary.js';
import type { WrittenKey, WrittenValue } from './registry-export.js';
import { sddlOf } from './sddl.js';
import type { DcomApplication, DcomSettings } from './settings.js';
import { nameOfSid } from './sid.js';
import type { Sid } from './sid.js';
import { caretakers, isSameName, limitsOf, nearlyAll } from './who-may.js';
import type { NeededAccount } from './who-may.js';

/** What links need of an application. */
export interface NeededApplication {
  readonly application: DcomApplication;
  readonly needed: readonly NeededAccount[];
}

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

/** A value of the registry that becomes another; null: it is not there. */
export interface ValueChange extends Pick<PermissionChange, 'path' | 'name' | 'before'> {
  readonly after: SecurityDescriptor | null;
}

/** What is written to put changes in force, and to take them back. */
export interface KeysOfChanges {
  readonly apply: readonly WrittenKey[];
  readonly undo: readonly WrittenKey[];
}

export interface SmallestSettings {
  readonly changes: readonly PermissionChange[];
  /** What must be started anew for the changes to count. */
  readonly restarts: readonly string[];
  /** What can’t be worked out, or must be changed elsewhere. */
  readonly notes: readonly string[];
}

export const ole = 'HKEY_LOCAL_MACHINE\\SOFTWARE\\Microsoft\\Ole';
export const appIds = 'HKEY_LOCAL_MACHINE\\SOFTWARE\\Classes\\AppID';
const administrators: Sid = 'S-1-5-32-544';
/** Execute, with launch and activate, or access, from another machine (MS-DCOM 2.2.28.2.1). */
const farMask: Readonly<Record<ComPermission, number>> = { launch: 0x15, access: 0x05 };
const farBits: Readonly<Record<ComPermission, number>> = { launch: 0x14, access: 0x04 };
const nearBits: Readonly<Record<ComPermission, number>> = { launch: 0x0a, access: 0x02 };
const execute = 0x01;
const neededRights: Readonly<Record<ComPermission, readonly ComRight[]>> = {
  launch: ['launch far', 'activate far'],
  access: ['access far'],
};
const permissions = ['launch', 'access'] as const;
const titles: Readonly<Record<ComPermission, string>> = { launch: 'Launch', access: 'Access' };

/**
 * The least that lets every link work on one machine: for each application, launch and access from another machine for the
 * accounts that need it, or for a group of just them; nothing for anybody else, but for those who look after the machine.
 * What is given near stays. The machine’s limit is widened only where it stands in the way.
 */
export function smallestSettings(
  settings: DcomSettings,
  accounts: readonly ToldAccount[],
  applications: readonly NeededApplication[],
): SmallestSettings {
  const notes: string[] = [];
  const changes: PermissionChange[] = [];
  const restarts: string[] = [];
  const nameWords = namesOf(accounts);
  const through: Record<ComPermission, Set<Sid>> = { launch: new Set(), access: new Set() };
  const letIn = new Set<ToldAccount>();
  for (const { application, needed } of applications) {
    if (needed.length === 0) continue;
    const { known, unknown } = knownAccounts(needed, accounts);
    for (const userName of unknown)
      notes.push(`Of “${userName}” no export tells who it is: ${application.name} is left as it is.`);
    if (unknown.length > 0) continue;
    const trustees = trusteesFor(known, accounts);
    for (const permission of permissions) {
      for (const sid of trustees) through[permission].add(sid);
      const change = changeOf(settings, application, permission, trustees, nameWords);
      if (change) changes.push(change);
      const { own, byDefault } = limitsOf(settings, application, permission);
      const name = application.name || application.appId;
      notes.push(
        ...stillDenied(
          change?.after ?? own ?? byDefault,
          permission,
          known,
          `The ${permission} permission of ${name}`,
          nameWords,
        ),
      );
    }
    for (const account of known) letIn.add(account);
    if (changes.some(({ path }) => path.endsWith(application.appId)))
      restarts.push(
        application.service === null ? application.name : `the service ${application.service} (${application.name})`,
      );
  }
  for (const permission of permissions) {
    const limit = limitChange(settings, permission, [...through[permission]], accounts, notes);
    if (limit) changes.push(limit);
    const { restriction, policy } = limitsOf(settings, null, permission);
    if (!policy)
      notes.push(
        ...stillDenied(
          limit?.after ?? restriction,
          permission,
          [...letIn],
          `The machine’s limit of ${permission} permissions`,
          nameWords,
        ),
      );
  }
  return { changes, restarts, notes };
}

/** The keys of a file that puts the changes in force, and of one that takes them back. */
export function keysOfChanges(changes: readonly ValueChange[]): KeysOfChanges {
  const keys = (valueOf: (change: ValueChange) => WrittenValue): readonly WrittenKey[] => {
    const byPath = new Map<string, WrittenValue[]>();
    for (const change of changes) byPath.set(change.path, [...(byPath.get(change.path) ?? []), valueOf(change)]);
    return [...byPath].map(([path, values]) => ({ path, values }));
  };
  return {
    apply: keys(({ name, after }) => valueOf(name, after)),
    undo: keys(({ name, before }) => valueOf(name, before)),
  };
}

const valueOf = (name: string, descriptor: SecurityDescriptor | null): WrittenValue =>
  descriptor ? { name, bytes: descriptorBytes(descriptor) } : { name, remove: true };

/** A permission in words, as SDDL. */
export const sayPermission = (descriptor: SecurityDescriptor | null): string | null =>
  descriptor && (sddlOf(descriptor) ?? 'a permission with conditions');

function knownAccounts(needed: readonly NeededAccount[], accounts: readonly ToldAccount[]) {
  const found = needed.map(({ userName }) => ({
    userName,
    account: accounts.find(({ name }) => isSameName(userName, name)) ?? null,
  }));
  return {
    known: found.flatMap(({ account }) => account ?? []),
    unknown: found.filter(({ account }) => account === null).map(({ userName }) => userName),
  };
}

/** Who is kept out all the same: by the denial of a group, which may stand there for others’ sake and is left to people. */
function stillDenied(
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
function denialOf(descriptor: SecurityDescriptor, permission: ComPermission, token: AccessToken): Ace | undefined {
  const only = { own: descriptor, byDefault: null, restriction: null, policy: null };
  return neededRights[permission]
    .map((right) => checkComRight(only, token, right).entry?.ace)
    .find((ace) => ace?.type === aceTypes.denied);
}

/** A group of just those accounts, where there is one and they are several; else the accounts themselves. */
function trusteesFor(known: readonly ToldAccount[], all: readonly ToldAccount[]): readonly Sid[] {
  if (known.length > 1) {
    const group = known[0]?.token.groups.find(
      (sid) =>
        !nearlyAll.has(sid) &&
        !caretakers.has(sid) &&
        known.every(({ token }) => token.groups.includes(sid)) &&
        all.every((account) => known.includes(account) || !account.token.groups.includes(sid)),
    );
    if (group !== undefined && !isOfEveryLogon(group)) return [group];
  }
  return [...new Set(known.map(({ token }) => token.user))];
}

/** Groups that say how somebody came, not who it is. */
const isOfEveryLogon = (sid: Sid): boolean =>
  /^S-1-5-(?:\d|1\d|113|114|64-10|15)$/.test(sid) || sid.startsWith('S-1-5-5-');

function changeOf(
  settings: DcomSettings,
  application: DcomApplication,
  permission: ComPermission,
  trustees: readonly Sid[],
  nameWords: (sid: Sid) => string,
): PermissionChange | null {
  const { own, byDefault } = limitsOf(settings, application, permission);
  const now = own ?? byDefault;
  const kept = (now?.dacl ?? []).flatMap((ace) => keptOf(ace, permission, trustees));
  const isThere = (sid: Sid): boolean =>
    kept.some(
      (ace) =>
        ace.sid === sid && ace.type === aceTypes.allowed && (ace.mask & farBits[permission]) === farBits[permission],
    );
  const added = trustees.filter((sid) => !isThere(sid));
  const dacl = [...kept, ...added.map((sid) => entryFor(sid, farMask[permission]))];
  const narrowed = (now?.dacl ?? []).filter((ace) => !kept.includes(ace));
  // Without a list everybody may do everything: that is never the least.
  if (added.length === 0 && narrowed.length === 0 && now?.dacl) return null;
  return {
    what: `${titles[permission]} permission of ${application.name || application.appId}`,
    path: `${appIds}\\${application.appId}`,
    name: permission === 'launch' ? 'LaunchPermission' : 'AccessPermission',
    before: own,
    after: descriptorOf(withCaretakers(dacl, permission)),
    says: [
      ...added.map(
        (sid) =>
          `${nameWords(sid)} is given ${permission === 'launch' ? 'launch and activation' : 'access'} from other machines.`,
      ),
      ...narrowed.map(
        (ace) =>
          `${nameWords(ace.sid)} loses ${permission === 'launch' ? 'launch and activation' : 'access'} from other machines, which no link needs.`,
      ),
      ...(now && !now.dacl ? ['It has no list today, and lets everybody do everything.'] : []),
      ...(own === null && now ? ['It gets a permission of its own; the machine’s default one stays as it is.'] : []),
    ],
  };
}

/** What stays of an entry: all of it, its near rights, or nothing. */
function keptOf(ace: Ace, permission: ComPermission, trustees: readonly Sid[]): readonly Ace[] {
  const gives = ace.type === aceTypes.allowed;
  const isOld = (ace.mask & execute) !== 0 && (ace.mask & (farBits[permission] | nearBits[permission])) === 0;
  const isFar = isOld || (ace.mask & farBits[permission]) !== 0;
  if (!gives || !isFar || caretakers.has(ace.sid) || trustees.includes(ace.sid)) {
    // A denial of somebody who needs it would stand in the way.
    return !gives && trustees.includes(ace.sid) ? [] : [ace];
  }
  const near = isOld ? nearBits[permission] : ace.mask & nearBits[permission];
  return near === 0 ? [] : [{ ...ace, mask: execute | near }];
}

function withCaretakers(dacl: readonly Ace[], permission: ComPermission): readonly Ace[] {
  if (dacl.some(({ sid, type }) => sid === administrators && type === aceTypes.allowed)) return dacl;
  return [...dacl, entryFor(administrators, execute | farBits[permission] | nearBits[permission])];
}

/** The machine’s limit, widened for those whom it holds back; null: it lets them through. */
function limitChange(
  settings: DcomSettings,
  permission: ComPermission,
  trustees: readonly Sid[],
  accounts: readonly ToldAccount[],
  notes: string[],
): PermissionChange | null {
  const nameWords = namesOf(accounts);
  const { restriction, policy } = limitsOf(settings, null, permission);
  const limit = policy ?? restriction;
  if (!limit) return null;
  const held = trustees.filter((sid) => {
    const account = accounts.find(({ token }) => token.user === sid || token.groups.includes(sid));
    const token = account?.token ?? { user: sid, groups: [], denyOnly: [] };
    // A denial of a group stays, and who is denied by it would not be let through by an entry after it.
    const denial = policy ? undefined : denialOf(limit, permission, token);
    if (denial && denial.sid !== sid) return false;
    const only = { own: limit, byDefault: null, restriction: null, policy: null };
    return neededRights[permission].some(
      (right) =>
        permissionOf(right) === permission && checkComRight(only, token, right).entry?.ace.type !== aceTypes.allowed,
    );
  });
  if (held.length === 0) return null;
  if (policy) {
    notes.push(
      `A policy limits ${permission} permissions and holds back ${held.map(nameWords).join(', ')}: it must be changed where policies are made.`,
    );
    return null;
  }
  const denied = (limit.dacl ?? []).filter((ace) => ace.type === aceTypes.denied && held.includes(ace.sid));
  const dacl = [
    ...(limit.dacl ?? []).filter((ace) => !denied.includes(ace)),
    ...held.map((sid) => entryFor(sid, farMask[permission])),
  ];
  return {
    what: `The machine’s limit of ${permission} permissions`,
    path: ole,
    name: permission === 'launch' ? 'MachineLaunchRestriction' : 'MachineAccessRestriction',
    before: restriction,
    after: { ...limit, dacl },
    says: held.map((sid) => `It lets ${nameWords(sid)} through; it gives nothing by itself.`),
  };
}

/** What somebody is called: an account by its name, somebody well known by that, else the SID. */
const namesOf =
  (accounts: readonly ToldAccount[]) =>
  (sid: Sid): string =>
    nameOfSid(sid) ?? (accounts.find(({ token }) => token.user === sid)?.name || sid);
const entryFor = (sid: Sid, mask: number): Ace => ({
  type: aceTypes.allowed,
  flags: 0,
  mask,
  sid,
  objectType: null,
  inheritedObjectType: null,
  data: noData,
});
const descriptorOf = (dacl: readonly Ace[]): SecurityDescriptor => ({
  control: controlBits.selfRelative | controlBits.daclPresent,
  owner: administrators,
  group: administrators,
  dacl,
  sacl: null,
});
