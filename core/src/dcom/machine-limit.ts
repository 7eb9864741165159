import type { ToldAccount } from './account-token.js';
import { checkComRight, permissionOf } from './com-rights.js';
import type { ComPermission } from './com-rights.js';
import { aceTypes } from './descriptor.js';
import { denialOf, entryFor, farMask, namesOf, neededRights, placeOf } from './permission-entries.js';
import type { PermissionChange } from './permission-entries.js';
import type { DcomSettings } from './settings.js';
import type { Sid } from './sid.js';
import { limitsOf } from './who-may.js';

/** The machine’s limit, widened for those whom it holds back; null: it lets them through. */
export function limitChange(
  settings: DcomSettings,
  permission: ComPermission,
  trustees: readonly Sid[],
  accounts: readonly ToldAccount[],
  notes: string[],
): PermissionChange | null {
  const nameWords = namesOf(accounts);
  const { restriction, policy } = limitsOf(settings, null, permission);
  const kept = permission === 'launch' ? settings.launchRestriction : settings.accessRestriction;
  if ((kept?.fault ?? null) !== null)
    notes.push(`The machine’s limit of ${permission} permissions can’t be read: see that it lets links through.`);
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
    ...placeOf(permission, null),
    before: restriction,
    after: { ...limit, dacl },
    says: held.map((sid) => `It lets ${nameWords(sid)} through; it gives nothing by itself.`),
  };
}
