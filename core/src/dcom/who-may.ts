import type { AccessToken } from './access-check.js';
import type { ToldAccount } from './account-token.js';
import { checkComRight, comRights, permissionOf } from './com-rights.js';
import type { ComDecision, ComLimits, ComPermission, ComRight } from './com-rights.js';
import type { SecurityDescriptor } from './descriptor.js';
import type { DcomApplication, DcomSettings, KeptPermission } from './settings.js';
import { nameOfSid } from './sid.js';
import type { Sid } from './sid.js';

/** An account that signs in on a machine, and the links that need it to. */
export interface NeededAccount {
  /** As links name it, with a domain or without. */
  readonly userName: string;
  readonly links: readonly string[];
}

/**
 * How a right stands: `needed` is given and needed, `missing` is needed and not given; `excess` is given to somebody whom no
 * link needs, and `wide` to everybody, whoever needs it; `given` is what an administrator or the system has, or near rights.
 */
export type RightStanding = 'needed' | 'missing' | 'given' | 'excess' | 'wide' | 'none' | 'unknown';

export interface RightCell {
  readonly right: ComRight;
  readonly standing: RightStanding;
  readonly decision: ComDecision;
}
export interface WhoMayRow {
  /** null: an account of which no export tells who it is. */
  readonly sid: Sid | null;
  readonly name: string;
  readonly isAccount: boolean;
  readonly links: readonly string[];
  readonly cells: readonly RightCell[];
}

const [everyone, anonymous, authenticated, network] = ['S-1-1-0', 'S-1-5-7', 'S-1-5-11', 'S-1-5-2'] as const;
/** Whoever has rights as one of these has them as nearly everybody. */
export const nearlyAll: ReadonlySet<Sid> = new Set([
  everyone,
  anonymous,
  authenticated,
  network,
  'S-1-5-32-545',
  'S-1-5-32-546',
]);
/** Those who look after the machine. */
export const caretakers: ReadonlySet<Sid> = new Set(['S-1-5-18', 'S-1-5-32-544', 'S-1-5-19', 'S-1-5-20']);
const farRights: ReadonlySet<ComRight> = new Set(['launch far', 'activate far', 'access far']);

/** What decides over a permission of an application; `own` null: it has none of its own. */
export function limitsOf(
  settings: DcomSettings,
  application: DcomApplication | null,
  permission: ComPermission,
): ComLimits {
  const of = (kept: KeptPermission | null): SecurityDescriptor | null => kept?.descriptor ?? null;
  return permission === 'launch'
    ? {
        own: of(application?.launch ?? null),
        byDefault: of(settings.defaultLaunch),
        restriction: of(settings.launchRestriction),
        policy: of(settings.launchPolicy),
      }
    : {
        own: of(application?.access ?? null),
        byDefault: of(settings.defaultAccess),
        restriction: of(settings.accessRestriction),
        policy: of(settings.accessPolicy),
      };
}

/** Who may do what with an application: accounts that are known or needed, and whoever stands in its permissions. */
export function whoMay(
  settings: DcomSettings,
  application: DcomApplication,
  accounts: readonly ToldAccount[],
  needed: readonly NeededAccount[],
): readonly WhoMayRow[] {
  const limits = {
    launch: limitsOf(settings, application, 'launch'),
    access: limitsOf(settings, application, 'access'),
  };
  const known = accounts.map((account): WhoMayRow => {
    const links = needed.filter(({ userName }) => isSameName(userName, account.name)).flatMap((one) => one.links);
    const { user } = account.token;
    return {
      sid: user,
      name: account.name,
      isAccount: true,
      links,
      cells: cellsOf(limits, account.token, user, links),
    };
  });
  const untold = needed
    .filter(({ userName }) => !accounts.some(({ name }) => isSameName(userName, name)))
    .map(({ userName, links }): WhoMayRow => ({
      sid: null,
      name: userName,
      isAccount: true,
      links,
      cells: comRights.map((right) => ({
        right,
        standing: 'unknown',
        decision: { isAllowed: null, by: 'own permission', entry: null },
      })),
    }));
  const others = sidsIn(limits)
    .filter((sid) => !accounts.some(({ token }) => token.user === sid))
    .map((sid): WhoMayRow => ({
      sid,
      name: nameOfSid(sid) ?? sid,
      isAccount: false,
      links: [],
      cells: cellsOf(limits, tokenOfGroup(sid), sid, linksOfMembers(sid, accounts, needed)),
    }));
  return [...known, ...untold, ...others];
}

/** `WORKS\display` and `display` are the same, where one of them says no domain. */
export function isSameName(one: string, other: string): boolean {
  const [left, right] = [one.toLowerCase().split('\\'), other.toLowerCase().split('\\')];
  return left.at(-1) === right.at(-1) && (left.length === 1 || right.length === 1 || left[0] === right[0]);
}

/** Somebody of whom nothing is known but that they are in a group. */
const tokenOfGroup = (sid: Sid): AccessToken => ({
  user: sid,
  groups:
    sid === anonymous
      ? [network]
      : [everyone, network, ...(nearlyAll.has(sid) && sid !== authenticated ? [] : [authenticated])],
  denyOnly: [],
});

const linksOfMembers = (
  sid: Sid,
  accounts: readonly ToldAccount[],
  needed: readonly NeededAccount[],
): readonly string[] =>
  needed
    .filter(({ userName }) =>
      accounts.some(({ name, token }) => isSameName(userName, name) && token.groups.includes(sid)),
    )
    .flatMap(({ links }) => links);

function cellsOf(
  limits: Readonly<Record<ComPermission, ComLimits>>,
  token: AccessToken,
  sid: Sid,
  links: readonly string[],
): readonly RightCell[] {
  return comRights.map((right) => {
    const decision = checkComRight(limits[permissionOf(right)], token, right);
    return { right, standing: standingOf(decision, right, sid, links.length > 0), decision };
  });
}

function standingOf({ isAllowed }: ComDecision, right: ComRight, sid: Sid, isNeeded: boolean): RightStanding {
  if (isAllowed === null) return 'unknown';
  const isFar = farRights.has(right);
  if (!isAllowed) return isFar && isNeeded && !nearlyAll.has(sid) ? 'missing' : 'none';
  if (!isFar || caretakers.has(sid)) return 'given';
  if (nearlyAll.has(sid)) return 'wide';
  return isNeeded ? 'needed' : 'excess';
}

/** Everybody whom an entry names, in the order of the entries. */
function sidsIn(limits: Readonly<Record<ComPermission, ComLimits>>): readonly Sid[] {
  const descriptors = Object.values(limits).flatMap(({ own, byDefault, restriction, policy }) => [
    own ?? byDefault,
    policy ?? restriction,
  ]);
  return [...new Set(descriptors.flatMap((descriptor) => (descriptor?.dacl ?? []).map(({ sid }) => sid)))];
}

const places: Readonly<Record<ComDecision['by'], string>> = {
  'own permission': 'the application’s own permission',
  'default permission': 'the machine’s default permission',
  restriction: 'the machine’s limit',
  policy: 'the limit that a policy sets',
};

/** Why a right is given or not, down to the entry that decides. */
export function sayDecision({ isAllowed, by, entry }: ComDecision, permission: ComPermission): string {
  const where = places[by];
  const which = entry ? `entry ${entry.index + 1} of ${where}, for ${nameOfSid(entry.ace.sid) ?? entry.ace.sid}` : null;
  if (isAllowed === null && (by === 'restriction' || by === 'policy'))
    return `The export has no limit of the machine. As far as the application goes, ${entry ? `entry ${entry.index + 1}, for ${nameOfSid(entry.ace.sid) ?? entry.ace.sid}, gives it` : 'everybody has it'}.`;
  if (isAllowed === null)
    return `The export has neither a ${permission} permission of the application nor a default one.`;
  if (isAllowed)
    return which
      ? `Given by ${which}; the machine’s limit lets it through.`
      : `Given by ${where}, which has no list: it lets everybody.`;
  return which ? `Denied by ${which}.` : `No entry of ${where} gives it.`;
}
