import type { ToldAccount } from './account-token.js';
import type { ComPermission } from './com-rights.js';
import type { SecurityDescriptor } from './descriptor.js';
import { descriptorBytes } from './descriptor-binary.js';
import { applicationChange } from './application-permission.js';
import { limitChange } from './machine-limit.js';
import { namesOf, permissions, stillDenied } from './permission-entries.js';
import type { PermissionChange } from './permission-entries.js';
import { isOfSystem, wayBackChange } from './way-back.js';
import type { CalledBack } from './way-back.js';
import type { WrittenKey, WrittenValue } from './registry-export.js';
import { sddlOf } from './sddl.js';
import type { DcomApplication, DcomSettings } from './settings.js';
import type { Sid } from './sid.js';
import { caretakers, isSameName, limitsOf, nearlyAll } from './who-may.js';
import type { NeededAccount } from './who-may.js';

/** What links need of an application. */
export interface NeededApplication {
  readonly application: DcomApplication;
  readonly needed: readonly NeededAccount[];
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

/**
 * The least that lets every link work on one machine: for each application, launch and access from another machine for the
 * accounts that need it, or for a group of just them; nothing for anybody else, but for those who look after the machine.
 * What is given near stays. The machine’s limit is widened only where it stands in the way.
 * @param clients on this machine, which servers elsewhere call back: they are given access, and nobody loses any
 */
export function smallestSettings(
  settings: DcomSettings,
  accounts: readonly ToldAccount[],
  applications: readonly NeededApplication[],
  clients: readonly CalledBack[] = [],
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
    const unread = permissions.filter((permission) => (application[permission]?.fault ?? null) !== null);
    for (const permission of unread)
      notes.push(
        `The ${permission} permission of ${application.name || application.appId} can’t be read, so that nobody could give it back: it is left as it is.`,
      );
    if (unread.length > 0) continue;
    const trustees = trusteesFor(known, accounts);
    for (const permission of permissions) {
      for (const sid of trustees) through[permission].add(sid);
      const change = applicationChange(settings, application, permission, trustees, nameWords);
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
  const atDefault: ToldAccount[] = [];
  for (const { name, application, needed } of clients) {
    const { known, unknown } = knownAccounts(needed, accounts);
    for (const userName of unknown) notes.push(`The way back to ${name}: ${strangerWords(userName)}`);
    for (const account of known) letIn.add(account);
    for (const { token } of known) through.access.add(token.user);
    if (!application) atDefault.push(...known);
    else if (applications.some((one) => one.application.appId === application.appId && one.needed.length > 0)) {
      notes.push(`${name} is a server, too: see that ${listOf(known)} keeps access to it, as servers call it back.`);
    } else {
      const change = wayBackChange(settings, application, known, trusteesFor(known, accounts), nameWords);
      if (change) changes.push(change);
    }
  }
  const byDefault = wayBackChange(
    settings,
    null,
    atDefault,
    [...new Set(atDefault.map(({ token }) => token.user))],
    nameWords,
  );
  if (byDefault) changes.push(byDefault);
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

const listOf = (accounts: readonly ToldAccount[]): string => accounts.map(({ name }) => name).join(', ');
const strangerWords = (userName: string): string =>
  isOfSystem(userName)
    ? `a server runs as ${userName}, which is its machine’s own account over the network. Let it run under an account that this machine knows.`
    : `a server calls back as “${userName}”, and no export of this machine tells who that is.`;

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
