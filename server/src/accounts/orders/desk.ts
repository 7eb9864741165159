import { accessChangeHolds } from '@loyal-hinge/core';
import type { AccessChange } from '@loyal-hinge/core';
import { findCertificate } from '../../certificates/store.js';
import type { Database } from '../../database/database.js';
import { conflict } from '../../http/problems.js';
import type { Carried, ChangeDesk, Errand, Gate } from '../../orders/port.js';
import { wayOf } from '../../trust/lists/ways.js';
import type { AccessManagement } from '../../ua/access-management.js';
import type { AccessDesk } from '../access-desk.js';
import type { AccountPasswords } from '../passwords.js';

type PasswordChange = Extract<AccessChange, { readonly kind: 'change-password' }>;

/** Lines of work orders that change roles, users and passwords: as the server’s administrator, or by hand where it has no such access. */
export class AccountDesk implements ChangeDesk<AccessChange> {
  readonly action = 'roles and users changed';

  constructor(
    private readonly db: Database,
    private readonly desk: AccessDesk,
    private readonly passwords: AccountPasswords,
  ) {}

  needPassphrase = (): Promise<boolean> => Promise.resolve(false);

  async byHand(target: string, changes: readonly AccessChange[]): Promise<string | null> {
    if ((await wayOf(this.db, target))?.way === 'push') return null;
    return changes.some(({ kind }) => kind === 'change-password')
      ? 'No administrator’s access to this server is known. Set the new password at the server, then mark it as done: from then on all links of the account use it.'
      : 'No administrator’s access to this server is known. Set it at the server, then mark it as done.';
  }

  /** What a person did at the server counts in the plant, too. */
  async afterHand(changes: readonly AccessChange[], actor: string): Promise<void> {
    for (const change of changes) if (isOfPassword(change)) await this.passwords.use(change, actor);
  }

  async carry({ target, changes, actor }: Errand<AccessChange>): Promise<Carried> {
    const idle: AccessChange[] = [];
    await this.desk.change(target, actor, async (management, before, user) => {
      for (const change of changes)
        if (accessChangeHolds(change, before)) idle.push(change);
        else await this.make(management, change, user, before.users ?? []);
    });
    const says = [idle.length === changes.length ? 'All was so already.' : 'The server has taken it.'];
    for (const change of changes.filter(isOfPassword)) says.push(await this.switchOver(change, actor));
    return { says: says.join(' '), restarted: false, idle };
  }

  gate = (): Promise<Gate> => Promise.resolve({ heldBackBy: () => Promise.resolve(null) });

  private async make(
    management: AccessManagement,
    change: AccessChange,
    administrator: string,
    users: readonly { readonly userName: string; readonly flags: readonly string[] }[],
  ): Promise<void> {
    switch (change.kind) {
      case 'add-role-rule':
        return management.changeRule(change.roleId, change.rule, 'Add');
      case 'remove-role-rule':
        return management.changeRule(change.roleId, change.rule, 'Remove');
      case 'change-user':
        return this.changeUser(management, change, users);
      case 'trust-user':
        return management.changeUserTrust(await this.bytesOf(change), 'add');
      case 'distrust-user':
        return management.changeUserTrust(await this.bytesOf(change), 'remove');
      case 'change-password': {
        const password = await this.passwords.open(change);
        // Nobody changes the password of the account by which the session is open, but that user.
        if (change.userName === administrator)
          return management.changePassword(await this.passwords.ofPush(change.serverId), password);
        const user = users.find(({ userName }) => userName === change.userName);
        const flags = user?.flags.includes('MustChangePassword') ? { flags: withoutFirst(user.flags) } : {};
        return management.modifyUser(change.userName, { password, ...flags });
      }
    }
  }

  private async bytesOf({ thumbprint, subject }: { readonly thumbprint: string; readonly subject: string }) {
    const known = await findCertificate(this.db, thumbprint);
    if (known) return known.der;
    throw conflict(`The certificate of ${subject} is not known here.`, 'Store it on the page User certificates first.');
  }

  private async changeUser(
    management: AccessManagement,
    { serverId, userName, after, secretId }: Extract<AccessChange, { readonly kind: 'change-user' }>,
    users: readonly { readonly userName: string }[],
  ): Promise<void> {
    if (!after) return management.removeUser(userName);
    const { flags, description } = after;
    if (users.some((user) => user.userName === userName))
      return management.modifyUser(userName, { flags, description });
    if (secretId === null)
      throw conflict(`A password is needed for “${userName}”.`, 'Propose the change again, with one.');
    const password = await this.passwords.open({ serverId, userName, secretId });
    return management.addUser(userName, password, flags, description);
  }

  /** The links use it, and whether the server takes it is tried once. */
  private async switchOver(change: PasswordChange, actor: string): Promise<string> {
    const says = await this.passwords.use(change, actor);
    const isIn = await this.desk.letsIn(change.serverId, change.userName, await this.passwords.open(change));
    return isIn ? `${says} The server lets “${change.userName}” in with it.` : says;
  }
}

const isOfPassword = (change: AccessChange): change is PasswordChange => change.kind === 'change-password';

const withoutFirst = (flags: readonly string[]) =>
  flags.filter((flag): flag is 'NoDelete' | 'Disabled' | 'NoChangeByUser' => flag !== 'MustChangePassword');
