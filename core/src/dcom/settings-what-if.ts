import type { ToldAccount } from './account-token.js';
import { checkComRight, permissionOf } from './com-rights.js';
import type { ComPermission } from './com-rights.js';
import { neededRights, ole, permissions, placeOf } from './permission-entries.js';
import type { PermissionChange } from './permission-entries.js';
import type { DcomApplication, DcomSettings, KeptPermission } from './settings.js';
import type { NeededApplication } from './smallest-settings.js';
import { isSameName, limitsOf } from './who-may.js';

/** A link whose account may do what the link needs after a change, and may not before, or the other way round. */
export interface TurnedLink {
  readonly link: string;
  readonly isGained: boolean;
}

/** Settings as they are once permissions of a machine and its applications were changed. */
export function settingsAfter(settings: DcomSettings, changes: readonly PermissionChange[]): DcomSettings {
  const changed = (
    permission: ComPermission,
    application: DcomApplication | null,
    now: KeptPermission | null,
  ): KeptPermission | null => {
    const { path, name } = placeOf(permission, application);
    const change = changes.find((one) => one.path === path && one.name === name);
    return change ? { descriptor: change.after, fault: null } : now;
  };
  const byDefault = changes.find(({ path, name }) => path === ole && name === 'DefaultAccessPermission');
  return {
    ...settings,
    defaultAccess: byDefault ? { descriptor: byDefault.after, fault: null } : settings.defaultAccess,
    launchRestriction: changed('launch', null, settings.launchRestriction),
    accessRestriction: changed('access', null, settings.accessRestriction),
    applications: settings.applications.map((one) => ({
      ...one,
      launch: changed('launch', one, one.launch),
      access: changed('access', one, one.access),
    })),
  };
}

/** Links that turn by changes of a machine’s permissions; those of accounts that nobody knows are left out. */
export function turnedLinks(
  settings: DcomSettings,
  changes: readonly PermissionChange[],
  accounts: readonly ToldAccount[],
  applications: readonly NeededApplication[],
): readonly TurnedLink[] {
  const after = settingsAfter(settings, changes);
  return applications.flatMap(({ application, needed }) => {
    const later = after.applications.find(({ appId }) => appId === application.appId);
    return needed.flatMap(({ userName, links }) => {
      const account = accounts.find(({ name }) => isSameName(userName, name));
      if (!account || !later) return [];
      const [now, then] = [mayUse(settings, application, account), mayUse(after, later, account)];
      return now === then ? [] : links.map((link) => ({ link, isGained: then }));
    });
  });
}

/** Whether an account has all that a link needs from another machine; what the exports do not say is taken as given. */
const mayUse = (settings: DcomSettings, application: DcomApplication, { token }: ToldAccount): boolean =>
  permissions.every((permission) =>
    neededRights[permission].every(
      (right) => checkComRight(limitsOf(settings, application, permissionOf(right)), token, right).isAllowed !== false,
    ),
  );
