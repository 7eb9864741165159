import type { ComPermission } from './com-rights.js';
import { aceTypes } from './descriptor.js';
import type { Ace } from './descriptor.js';
import {
  administrators,
  descriptorOf,
  entryFor,
  execute,
  farBits,
  farMask,
  nearBits,
  placeOf,
  titles,
} from './permission-entries.js';
import type { PermissionChange } from './permission-entries.js';
import type { DcomApplication, DcomSettings } from './settings.js';
import type { Sid } from './sid.js';
import { caretakers, limitsOf } from './who-may.js';

/** A permission of an application that gives what is needed from other machines, and no more; null: it does so already. */
export function applicationChange(
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
    ...placeOf(permission, application),
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
