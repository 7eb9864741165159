import type { ClassicRightsFact } from '../links/classic/facts.js';
import type { Instant } from '../time.js';
import type { AccessToken } from './access-check.js';
import type { ToldAccount } from './account-token.js';
import { checkComRight, permissionOf } from './com-rights.js';
import type { ComRight } from './com-rights.js';
import { serviceOf } from './machine-lists.js';
import { portsIn } from './object-ports.js';
import type { DcomApplication, DcomClass, DcomSettings } from './settings.js';
import { isSameName, limitsOf, sayDecision, whoMay } from './who-may.js';
import type { WhoMayRow } from './who-may.js';

const farRights: readonly ComRight[] = ['launch far', 'activate far', 'access far'];

/** The class of a program’s name or CLSID; undefined: the export does not know it. */
function classOfProgram({ classes }: DcomSettings, program: string): DcomClass | undefined {
  const wanted = bareName(program);
  return classes.find(({ clsid, progIds }) => [clsid, ...progIds].some((name) => bareName(name) === wanted));
}

/** Whether the exports hold classes of both views: else nobody knows what the other one has. */
const hasBothViews = ({ classes }: DcomSettings): boolean =>
  (['64', '32'] as const).every((view) => classes.some(({ views }) => views.includes(view)));

/** Its application; null: the export does not know it. */
export function applicationOfProgram(settings: DcomSettings, program: string): DcomApplication | null {
  const found = classOfProgram(settings, program);
  return settings.applications.find(({ appId }) => appId.toLowerCase() === found?.appId?.toLowerCase()) ?? null;
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
  const rows = whoMay(settings, application, [], []);
  const wide = rows.filter(({ cells }) => cells.some(({ standing }) => standing === 'wide'));
  return {
    takenAt,
    application: application.name || application.appId,
    isOn: settings.isOn,
    isGuestOnly: settings.logon.isGuestOnly,
    isHardened: settings.refusesLowActivation,
    runAs: application.runAs ?? serviceOf(settings, application)?.runsAs ?? null,
    service: serviceOf(settings, application),
    views: hasBothViews(settings) ? (classOfProgram(settings, program)?.views ?? []) : [],
    nobodyHas: farRights.filter((right) => hasNobody(settings, application, right, rows)),
    portCount: settings.ports && portsIn(settings.ports),
    hasOwnPort: application.endpoints.length > 0,
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

/** Somebody in no group, and of no name. */
const stranger: AccessToken = { user: 'S-1-0-0', groups: [], denyOnly: [] };

/** Whether no entry gives a right to anybody, and no missing list gives it to everybody. */
function hasNobody(
  settings: DcomSettings,
  application: DcomApplication,
  right: ComRight,
  rows: readonly WhoMayRow[],
): boolean {
  const limits = limitsOf(settings, application, permissionOf(right));
  return (
    checkComRight(limits, stranger, right).isAllowed === false &&
    rows.every(({ cells }) => cells.every((cell) => cell.right !== right || cell.decision.isAllowed === false))
  );
}
