import type { ToldAccount } from './account-token.js';
import { checkComRight } from './com-rights.js';
import { serviceOf } from './machine-lists.js';
import { administrators, descriptorOf, entryFor, farMask, ole, placeOf } from './permission-entries.js';
import type { PermissionChange } from './permission-entries.js';
import type { DcomApplication, DcomSettings } from './settings.js';
import type { Sid } from './sid.js';
import { limitsOf } from './who-may.js';
import type { NeededAccount } from './who-may.js';

/** A client that servers on other machines call back with changes, and as whom they do. */
export interface CalledBack {
  readonly name: string;
  /** Its own application in the export; null: it has none, and the machine’s default permission counts. */
  readonly application: DcomApplication | null;
  readonly needed: readonly NeededAccount[];
}

/**
 * The account as which a server calls back: the one that it runs as, or whoever had it launched.
 * @returns null: it runs as whoever is signed in there, and that may be anybody
 */
export function callerOf(
  settings: Pick<DcomSettings, 'services'>,
  application: DcomApplication,
  launchedBy: string | null,
): string | null {
  const runAs = application.runAs ?? serviceOf(settings, application)?.runsAs ?? null;
  if (runAs === null) return launchedBy;
  // An account of the machine itself is known elsewhere by the same name and password.
  return runAs.toLowerCase() === 'interactive user' ? null : runAs.replace(/^\.\\(?!localsystem$)/i, '');
}

/** An account of the system: over the network it is its machine’s, and no export tells who that is. */
export const isOfSystem = (account: string): boolean =>
  /^(localsystem|nt authority\\.*|nt service\\.*|\.\\localsystem)$/i.test(account);

const [self, system] = ['S-1-5-10', 'S-1-5-18'] as const;
/** What counts where a machine has no default access permission (MS-DCOM’s neighbours: itself, its administrators, the system near). */
const builtIn = descriptorOf([entryFor(self, 0x07), entryFor(system, 0x03), entryFor(administrators, 0x07)]);

/**
 * An access permission that lets callers in, and takes nothing from anybody: others may count on it. null: they are let in
 * already, or it can’t be read. The machine’s limit is another matter.
 */
export function wayBackChange(
  settings: DcomSettings,
  application: DcomApplication | null,
  callers: readonly ToldAccount[],
  trustees: readonly Sid[],
  nameWords: (sid: Sid) => string,
): PermissionChange | null {
  // What can’t be read could not be given back.
  if (((application ? application.access : settings.defaultAccess)?.fault ?? null) !== null) return null;
  const { own, byDefault } = limitsOf(settings, application, 'access');
  const now = own ?? byDefault ?? builtIn;
  const only = { own: now, byDefault: null, restriction: null, policy: null };
  const held = callers.filter(({ token }) => checkComRight(only, token, 'access far').isAllowed === false);
  if (held.length === 0) return null;
  const added = trustees.filter((sid) => held.some(({ token }) => token.user === sid || token.groups.includes(sid)));
  const place = application ? placeOf('access', application) : { path: ole, name: 'DefaultAccessPermission' };
  return {
    what: application
      ? `Access permission of ${application.name || application.appId}`
      : 'The machine’s default access permission',
    ...place,
    before: application ? own : byDefault,
    after: { ...now, dacl: [...(now.dacl ?? []), ...added.map((sid) => entryFor(sid, farMask.access))] },
    says: [
      ...added.map(
        (sid) => `${nameWords(sid)} is given access from other machines: servers call back as this account.`,
      ),
      ...(application && own === null ? ['It gets a permission of its own, with all that the default one gives.'] : []),
    ],
  };
}
