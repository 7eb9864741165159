import { and, eq, sql } from 'drizzle-orm';
import type { PasswordTarget, SignInTries } from '@loyal-hinge/core';
import type { Queryable } from '../../database/database.js';
import { accountTries } from '../../database/schema.js';

/** A user name at an application; the empty name is anonymous. */
export type Account = Pick<PasswordTarget, 'applicationUri' | 'userName'>;

const ofAccount = ({ applicationUri, userName }: Account) =>
  and(eq(accountTries.applicationUri, applicationUri), eq(accountTries.userName, userName));

/** @param mark that of the password that is to be sent */
export async function triesOf(db: Queryable, account: Account, mark: string): Promise<SignInTries> {
  const [row] = await db.select().from(accountTries).where(ofAccount(account));
  return {
    refusals: row?.refusals ?? 0,
    withSamePassword: row?.mark === mark ? row.sameRefusals : 0,
    refusedAt: row?.refusedAt ? new Date(row.refusedAt).toISOString() : null,
    code: row?.code ?? '',
  };
}

export async function noteLetIn(db: Queryable, account: Account, by: string): Promise<void> {
  const row = { signedInAt: new Date().toISOString(), signedInBy: by, refusals: 0, mark: '', sameRefusals: 0 };
  await db
    .insert(accountTries)
    .values({ ...account, ...row })
    .onConflictDoUpdate({ target: [accountTries.applicationUri, accountTries.userName], set: row });
}

export async function noteRefused(db: Queryable, account: Account, mark: string, code: string): Promise<void> {
  const row = { refusedAt: new Date().toISOString(), code, mark };
  await db
    .insert(accountTries)
    .values({ ...account, ...row, refusals: 1, sameRefusals: 1 })
    .onConflictDoUpdate({
      target: [accountTries.applicationUri, accountTries.userName],
      set: {
        ...row,
        refusals: sql`${accountTries.refusals} + 1`,
        sameRefusals: sql`case when ${accountTries.mark} = ${mark} then ${accountTries.sameRefusals} + 1 else 1 end`,
      },
    });
}

/** A person typed the password: it is tried again, were it the same as before. */
export async function typedAgain(tx: Queryable, account: Account): Promise<void> {
  await tx.update(accountTries).set({ mark: '', sameRefusals: 0 }).where(ofAccount(account));
}

export type AccountTriesRow = typeof accountTries.$inferSelect;

export const allTries = (db: Queryable): Promise<AccountTriesRow[]> => db.select().from(accountTries);
