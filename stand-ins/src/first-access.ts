import type { IdentityRule } from '@loyal-hinge/core';
import { roleNames } from './access-management.js';
import type { KeptAccess, KeptRole, RoleName } from './access-management.js';
import { deskUser } from './marrowby/index.js';
import type { StandInServer } from './marrowby/index.js';

const user = (criteria: string): IdentityRule => ({ criterion: 'UserName', criteria });

/** Who has which role where nothing else is said: everybody who signed in looks, the technician sets, the desk administers. */
const usual: Readonly<Partial<Record<RoleName, readonly IdentityRule[]>>> = {
  Observer: [{ criterion: 'AuthenticatedUser', criteria: '' }],
  Operator: [user('technician')],
  SecurityAdmin: [user(deskUser)],
};

/** Roles and users of a stand-in before anybody has changed them. @param passwords by user name */
export function firstAccess(
  { users, firstPasswords = [], roles = {} }: StandInServer,
  passwords: ReadonlyMap<string, string>,
): KeptAccess {
  const roleOf = (name: RoleName): KeptRole => ({
    identities: roles[name] ?? usual[name] ?? [],
    applicationsExclude: true,
    applications: [],
    endpointsExclude: true,
    endpoints: [],
  });
  return {
    roles: Object.fromEntries(roleNames.map((name) => [name, roleOf(name)])) as Record<RoleName, KeptRole>,
    users: users.map((userName) => ({
      userName,
      password: passwords.get(userName) ?? '',
      flags: firstPasswords.includes(userName) ? ['MustChangePassword'] : userName === deskUser ? ['NoDelete'] : [],
      description: '',
    })),
  };
}
