import type { Instant } from '../time.js';
import { listed } from '../links/wording.js';
import { givenRoles, judgeRoles } from './granted-roles.js';
import type { AskingSession } from './granted-roles.js';
import { ruleKey, rulesOf, sayRoleRule } from './role-set.js';
import type { RoleRule, ServerAccess, ServerRole, ServerUser, UserFlag } from './role-set.js';

/** What a server is to know of a user beside the password. */
export interface UserSettings {
  readonly flags: readonly UserFlag[];
  readonly description: string;
}

/** A change of a server’s roles or users (Part 18 §4.4.5 to §4.4.10, §5.2.5 to §5.2.8). */
export type AccessChange =
  | {
      readonly kind: 'add-role-rule' | 'remove-role-rule';
      readonly serverId: string;
      /** NodeId of the role. */
      readonly roleId: string;
      readonly role: string;
      readonly rule: RoleRule;
    }
  | {
      readonly kind: 'change-user';
      readonly serverId: string;
      readonly userName: string;
      /** null: there is no such user; a new one needs a password, which is kept apart under `secretId`. */
      readonly before: UserSettings | null;
      /** null: the user is removed. */
      readonly after: UserSettings | null;
      readonly secretId: string | null;
    }
  | {
      /** At the server, and in the plant for all links that sign in with the account there. */
      readonly kind: 'change-password';
      readonly serverId: string;
      readonly userName: string;
      /** The new password is kept apart under this. */
      readonly secretId: string;
    }
  | {
      readonly kind: 'trust-user' | 'distrust-user';
      readonly serverId: string;
      /** Of the user’s certificate; its bytes are kept apart. */
      readonly thumbprint: string;
      readonly subject: string;
      readonly notAfter: Instant;
    };
type UserTrustChange = Extract<AccessChange, { readonly thumbprint: string }>;
type RuleChange = Extract<AccessChange, { readonly rule: RoleRule }>;

const isOfUserTrust = (change: AccessChange): change is UserTrustChange => 'thumbprint' in change;

/** The change that takes it back; null: the password of before, or of a removed user, is not known here. */
export function undoOfAccessChange(change: AccessChange): AccessChange | null {
  if (change.kind === 'change-password') return null;
  if (isOfUserTrust(change)) return { ...change, kind: change.kind === 'trust-user' ? 'distrust-user' : 'trust-user' };
  if (change.kind !== 'change-user')
    return { ...change, kind: change.kind === 'add-role-rule' ? 'remove-role-rule' : 'add-role-rule' };
  return change.after === null ? null : { ...change, before: change.after, after: change.before, secretId: null };
}

/** Whether it gives (0), replaces (1) or takes away (2). */
export function stageOfAccessChange(change: AccessChange): 0 | 1 | 2 {
  switch (change.kind) {
    case 'add-role-rule':
    case 'trust-user':
      return 0;
    case 'remove-role-rule':
    case 'distrust-user':
      return 2;
    case 'change-user':
      return change.before === null ? 0 : change.after === null ? 2 : 1;
    case 'change-password':
      return 1;
  }
}

const hasRule = (role: ServerRole | undefined, rule: RoleRule): boolean =>
  role !== undefined && rulesOf(role).some((one) => ruleKey(one) === ruleKey(rule));

/** Whether a server with these roles and users is as the change wants it; of passwords it tells nothing. */
export function accessChangeHolds(change: AccessChange, access: ServerAccess): boolean {
  if (change.kind === 'change-password') return false;
  if (isOfUserTrust(change)) {
    const isListed = access.userCertificates?.some(({ thumbprint }) => thumbprint === change.thumbprint);
    return isListed === (change.kind === 'trust-user');
  }
  if (change.kind !== 'change-user') {
    const role = access.roles.find(({ nodeId }) => nodeId === change.roleId);
    if (change.kind === 'add-role-rule') return hasRule(role, change.rule);
    // A rule that was not seen may have been among those that could not be read.
    return role !== undefined && !role.isPartlyUnread && !hasRule(role, change.rule);
  }
  const user = access.users?.find(({ userName }) => userName === change.userName);
  if (!access.users || !change.after) return access.users !== null && user === undefined;
  return user !== undefined && isSameUser(user, change.after);
}

const isSameUser = (user: ServerUser, wanted: UserSettings): boolean =>
  user.description === wanted.description &&
  user.flags.length === wanted.flags.length &&
  wanted.flags.every((flag) => user.flags.includes(flag));

/** The roles and users of a server after changes, to be looked at before anything is changed. */
export const accessAfter = (access: ServerAccess, changes: readonly AccessChange[]): ServerAccess =>
  changes.reduce<ServerAccess>((now, change) => {
    if (change.kind === 'change-password') return now;
    if (isOfUserTrust(change)) return { ...now, userCertificates: withTrust(now.userCertificates, change) };
    if (change.kind !== 'change-user')
      return {
        ...now,
        roles: now.roles.map((role) => (role.nodeId === change.roleId ? withRule(role, change) : role)),
      };
    if (!now.users) return now;
    const { userName, after } = change;
    const others = now.users.filter((user) => user.userName !== userName);
    return { ...now, users: after ? [...others, { userName, ...after }] : others };
  }, access);

function withTrust(
  listed: ServerAccess['userCertificates'],
  { kind, thumbprint, subject, notAfter }: UserTrustChange,
): ServerAccess['userCertificates'] {
  if (!listed) return null;
  const others = listed.filter((one) => one.thumbprint !== thumbprint);
  return kind === 'trust-user' ? [...others, { thumbprint, subject, notAfter }] : others;
}

function withRule(role: ServerRole, { kind, rule }: RuleChange): ServerRole {
  const isOther = (one: RoleRule): boolean => ruleKey(one) !== ruleKey(rule);
  const put = <Own>(all: readonly Own[], own: Own, asRule: (one: Own) => RoleRule): readonly Own[] => {
    const others = all.filter((one) => isOther(asRule(one)));
    return kind === 'add-role-rule' ? [...others, own] : others;
  };
  switch (rule.about) {
    case 'identity': {
      const { about: _, ...own } = rule;
      return { ...role, identities: put(role.identities, own, (one) => ({ about: 'identity', ...one })) };
    }
    case 'application':
      return {
        ...role,
        applications: role.applications && {
          ...role.applications,
          listed: put(role.applications.listed, rule.uri, (uri) => ({ about: 'application', uri })),
        },
      };
    case 'endpoint': {
      const { about: _, ...own } = rule;
      return {
        ...role,
        endpoints: role.endpoints && {
          ...role.endpoints,
          listed: put(role.endpoints.listed, own, (one) => ({ about: 'endpoint', ...one })),
        },
      };
    }
  }
}

/** A session whose roles would be others. */
export interface RoleTurn<Session extends AskingSession> {
  readonly session: Session;
  readonly gains: readonly string[];
  readonly loses: readonly string[];
}

/** Which sessions would be given other roles by changes. */
export function roleTurns<Session extends AskingSession>(
  access: ServerAccess,
  changes: readonly AccessChange[],
  sessions: readonly Session[],
): RoleTurn<Session>[] {
  const after = accessAfter(access, changes);
  return sessions.flatMap((session) => {
    const [was, is] = [access, after].map((one) => givenRoles(judgeRoles(one, session)));
    const gains = (is ?? []).filter((name) => !was?.includes(name));
    const loses = (was ?? []).filter((name) => !is?.includes(name));
    return gains.length + loses.length === 0 ? [] : [{ session, gains, loses }];
  });
}

const flagWords: Readonly<Record<UserFlag, string>> = {
  NoDelete: 'can’t be removed',
  Disabled: 'disabled',
  NoChangeByUser: 'may not change the password',
  MustChangePassword: 'must change the password',
};

/** Such as: disabled; “Night shift”. */
export const sayUserSettings = ({ flags, description }: UserSettings): string =>
  [
    flags.length === 0 ? 'enabled' : listed(flags.map((flag) => flagWords[flag])),
    ...(description === '' ? [] : [`“${description}”`]),
  ].join('; ');

/** A change of roles or users in words. */
export function sayAccessChange(change: AccessChange, server: string) {
  if (change.kind === 'change-password')
    return {
      title: `Change the password of “${change.userName}” on ${server}, and in all links that use it`,
      target: server,
      before: 'the present password',
      after: 'the new password, stored encrypted',
      undo: 'Change the password again.',
    };
  if (isOfUserTrust(change)) {
    const trusts = change.kind === 'trust-user';
    return {
      title: `Let ${server} ${trusts ? 'trust' : 'no longer trust'} the user certificate ${change.subject}`,
      target: server,
      before: trusts ? 'not among the user certificates that it trusts' : 'trusted as a user',
      after: trusts ? 'trusted as a user' : 'not among the user certificates that it trusts',
      undo: trusts ? 'Take it out of the list again.' : 'Put it into the list again.',
    };
  }
  if (change.kind !== 'change-user') {
    const { role, rule, kind } = change;
    const what = sayRoleRule(rule);
    const [title, before, after] =
      kind === 'add-role-rule'
        ? [`Add ${what} to the role ${role} on ${server}`, 'not listed', 'listed']
        : [`Remove ${what} from the role ${role} on ${server}`, 'listed', 'not listed'];
    return {
      title,
      target: server,
      before: `${role}: ${what} ${before}`,
      after: `${role}: ${what} ${after}`,
      undo: kind === 'add-role-rule' ? 'Remove the rule again.' : 'Add the rule again.',
    };
  }
  const { userName, before, after } = change;
  const say = (settings: UserSettings | null): string => (settings ? sayUserSettings(settings) : 'no such user');
  const verb = before === null ? 'Add' : after === null ? 'Remove' : 'Change';
  const undo = {
    Add: 'Remove the user again.',
    Remove: 'Add the user again, with a new password.',
    Change: 'Set it back as it was.',
  };
  return {
    title: `${verb} the user “${userName}” on ${server}`,
    target: server,
    before: say(before),
    after: say(after),
    undo: undo[verb],
  };
}
