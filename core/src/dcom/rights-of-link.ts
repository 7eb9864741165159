import type { ClassicRightsFact } from '../links/classic/facts.js';
import type { Instant } from '../time.js';
import type { ToldAccount } from './account-token.js';
import { checkComRight, permissionOf } from './com-rights.js';
import type { ComRight } from './com-rights.js';
import type { DcomApplication, DcomSettings } from './settings.js';
import { isSameName, limitsOf, sayDecision, whoMay } from './who-may.js';

const farRights: readonly ComRight[] = ['launch far', 'activate far', 'access far'];

/** The application of a program’s name or CLSID; null: the export does not know it. */
export function applicationOfProgram({ classes, applications }: DcomSettings, program: string): DcomApplication | null {
  const wanted = bareName(program);
  const found = classes.find(({ clsid, progIds }) => [clsid, ...progIds].some((name) => bareName(name) === wanted));
  return applications.find(({ appId }) => appId.toLowerCase() === found?.appId?.toLowerCase()) ?? null;
}
/** A ProgID or CLSID as it is compared: in small letters, without braces. */
export const bareName = (name: string): string => name.replace(/[{}]/g, '').toLowerCase();

/**
 * What a machine’s export says of a link: whether its account may launch and call the program, by which entry, and what else
 * there bears on it. null: the export does not know the program.
 */
export function rightsOfLink(
  settings: DcomSettings,
  accounts: readonly ToldAccount[],
  { program, userName, takenAt }: { readonly program: string; readonly userName: string; readonly takenAt: Instant },
): Omit<ClassicRightsFact, 'kind'> | null {
  const application = applicationOfProgram(settings, program);
  if (!application) return null;
  const account = accounts.find(({ name }) => isSameName(userName, name));
  const wide = whoMay(settings, application, [], []).filter(({ cells }) =>
    cells.some(({ standing }) => standing === 'wide'),
  );
  return {
    takenAt,
    application: application.name || application.appId,
    isOn: settings.isOn,
    isGuestOnly: settings.logon.isGuestOnly,
    isHardened: settings.refusesLowActivation,
    runAs: application.runAs,
    rights: account
      ? farRights.map((right) => {
          const decision = checkComRight(limitsOf(settings, application, permissionOf(right)), account.token, right);
          return {
            right,
            isAllowed: decision.isAllowed,
            by: decision.by,
            says: sayDecision(decision, permissionOf(right)),
          };
        })
      : [],
    wide: wide.map(({ name, cells }) => ({
      name,
      rights: cells.filter(({ standing }) => standing === 'wide').map(({ right }) => right),
    })),
  };
}
