import type { AccessChange } from '@loyal-hinge/core';
import type { AccountsPage } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { answerText } from '../http/serve.js';
import { accessTurnsOf, accessViewOf } from './access-view.js';
import { accountsViewOf } from './accounts-view.js';
import { userTrustOf } from './user-trust.js';

/** What workers do for accounts: all links and servers of the plant are looked at each time. */
export const accountJobs = {
  accounts: async (db: Database, wish: AccountsPage) => answerText('accounts', await accountsViewOf(db, wish)),
  access: async (db: Database, { serverId }: { readonly serverId: string }) =>
    answerText('access', await accessViewOf(db, serverId)),
  userTrust: async (db: Database) => answerText('userTrust', await userTrustOf(db)),
  accessWhatIf: async (
    db: Database,
    { serverId, changes }: { readonly serverId: string; readonly changes: readonly AccessChange[] },
  ) => answerText('accessWhatIf', await accessTurnsOf(db, serverId, changes)),
} as const;
export type AccountJobs = typeof accountJobs;
