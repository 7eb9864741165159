import { and, asc, eq, isNull, ne, sql } from 'drizzle-orm';
import type {
  Account,
  AddPerson,
  ChangePerson,
  Person,
  ResetPerson,
  Role,
  WantedSecondFactor,
} from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database, Queryable } from '../database/database.js';
import { people, recoveryCodes } from '../database/schema.js';
import { conflict, invalid, notFound, wrongPassword } from '../http/problems.js';
import type { Actor } from '../http/serve.js';
import { plantNameOf } from '../database/settings.js';
import { hashPassword, isPassword } from './passwords.js';
import type { SecondFactor } from './second-factor.js';
import { endSession, endSessionsOf, openSessions, sessionsOf } from './sessions.js';

/** Who can sign in and how: kept by administrators for everybody, and by everybody for themselves. */
export class Accounts {
  constructor(
    private readonly db: Database,
    private readonly secondFactor: SecondFactor,
  ) {}

  async all(): Promise<Person[]> {
    const [rows, open] = await Promise.all([
      this.db
        .select()
        .from(people)
        .orderBy(asc(sql`lower(${people.name})`)),
      openSessions(this.db),
    ]);
    return rows.map((row) => ({
      name: row.name,
      role: row.role,
      isDisabled: row.disabledAt !== null,
      mustChangePassword: row.mustChangePassword,
      hasSecondFactor: row.secondFactorSince !== null,
      lastSignedInAt: row.lastSignedInAt,
      sessions: open.get(row.name) ?? 0,
    }));
  }

  async add({ name, role, password }: AddPerson, actor: Actor): Promise<void> {
    const wanted = name.normalize('NFC');
    const passwordHash = await hashPassword(password);
    await this.db.transaction(async (tx) => {
      await tx.execute(sql`lock table people in share row exclusive mode`);
      const [alike] = await tx
        .select({ name: people.name })
        .from(people)
        .where(eq(sql`lower(${people.name})`, wanted.toLowerCase()));
      if (alike)
        throw conflict(`There is a person “${alike.name}” already.`, 'Choose a name that nobody can mistake for it.');
      await tx.insert(people).values({ name: wanted, role, passwordHash, mustChangePassword: true });
      await appendAudit(tx, { actor: actor.name, action: 'person added', subject: wanted, details: { role } });
    });
  }

  async change(name: string, { role, isDisabled }: ChangePerson, actor: Actor): Promise<void> {
    await this.db.transaction(async (tx) => {
      await holdAdministrators(tx);
      const before = await rowOf(tx, name);
      const wasDisabled = before.disabledAt !== null;
      if (before.role === role && wasDisabled === isDisabled) return;
      await tx
        .update(people)
        .set({ role, disabledAt: isDisabled ? (before.disabledAt ?? new Date().toISOString()) : null })
        .where(eq(people.name, name));
      if (before.role === 'administrator' && (role !== 'administrator' || isDisabled)) await keepOne(tx, name);
      if (isDisabled) await endSessionsOf(tx, name);
      await appendAudit(tx, {
        actor: actor.name,
        action: 'person changed',
        subject: name,
        details: { before: { role: before.role, isDisabled: wasDisabled }, after: { role, isDisabled } },
      });
    });
  }

  /** A first password anew, for somebody who lost theirs: whoever knows it besides is asked for another one at once. */
  async reset(name: string, { password, endSecondFactor }: ResetPerson, actor: Actor): Promise<void> {
    if (name === actor.name)
      throw conflict('This is your own password.', 'Change it on your own page, where your present one is asked for.');
    const passwordHash = await hashPassword(password);
    await this.db.transaction(async (tx) => {
      await rowOf(tx, name);
      await tx.update(people).set({ passwordHash, mustChangePassword: true }).where(eq(people.name, name));
      if (endSecondFactor) await this.secondFactor.end(tx, name);
      await endSessionsOf(tx, name);
      const details = { secondFactor: endSecondFactor ? 'ended' : 'as before' };
      await appendAudit(tx, { actor: actor.name, action: 'first password given anew', subject: name, details });
    });
  }

  async sessionsOf(name: string, actor: Actor) {
    await rowOf(this.db, name);
    return sessionsOf(this.db, name, actor.token);
  }

  async endSession(name: string, id: string, actor: Actor): Promise<void> {
    await this.db.transaction(async (tx) => {
      await endSession(tx, name, id);
      await appendAudit(tx, { actor: actor.name, action: 'session ended', subject: name, details: {} });
    });
  }

  async own(actor: Actor): Promise<Account> {
    const row = await rowOf(this.db, actor.name);
    const [sessions, codes] = await Promise.all([
      sessionsOf(this.db, actor.name, actor.token),
      this.db.select({ hash: recoveryCodes.codeHash }).from(recoveryCodes).where(eq(recoveryCodes.person, actor.name)),
    ]);
    return {
      name: row.name,
      role: row.role,
      mustChangePassword: row.mustChangePassword,
      hasSecondFactor: row.secondFactorSince !== null,
      recoveryCodesLeft: codes.length,
      sessions,
    };
  }

  /** Ends the other sessions: whoever knew the old password may have opened them. */
  async changePassword(current: string, next: string, actor: Actor): Promise<void> {
    await this.confirm(current, actor);
    if (current === next) throw invalid('The new password is the one that you have.');
    if (next.toLowerCase().includes(actor.name.toLowerCase()) && next.length < actor.name.length + 10)
      throw invalid('The new password is little more than your name.');
    const passwordHash = await hashPassword(next);
    await this.db.transaction(async (tx) => {
      await tx.update(people).set({ passwordHash, mustChangePassword: false }).where(eq(people.name, actor.name));
      const ended = await endSessionsOf(tx, actor.name, actor.token);
      const details = { otherSessionsEnded: ended };
      await appendAudit(tx, { actor: actor.name, action: 'password changed', subject: actor.name, details });
    });
  }

  async beginSecondFactor(current: string, actor: Actor): Promise<WantedSecondFactor> {
    await this.confirm(current, actor);
    const plantName = await plantNameOf(this.db);
    return this.db.transaction(async (tx) => {
      if ((await rowOf(tx, actor.name)).secondFactorSince !== null)
        throw conflict('You have a second factor already.', 'End it first, then set up another one.');
      return this.secondFactor.begin(tx, actor.name, plantName);
    });
  }

  /** @returns recovery codes */
  confirmSecondFactor(code: string, actor: Actor): Promise<readonly string[]> {
    return this.db.transaction(async (tx) => {
      await rowOf(tx, actor.name);
      const codes = await this.secondFactor.confirm(tx, actor.name, code);
      await this.note(tx, actor, 'second factor set up');
      return codes;
    });
  }

  async endSecondFactor(current: string, actor: Actor): Promise<void> {
    await this.confirm(current, actor);
    await this.db.transaction(async (tx) => {
      await this.secondFactor.end(tx, actor.name);
      await this.note(tx, actor, 'second factor ended');
    });
  }

  /** @returns recovery codes; those before are void */
  async renewRecoveryCodes(current: string, actor: Actor): Promise<readonly string[]> {
    await this.confirm(current, actor);
    return this.db.transaction(async (tx) => {
      if ((await rowOf(tx, actor.name)).secondFactorSince === null)
        throw conflict('You have no second factor.', 'Set one up first.');
      await this.note(tx, actor, 'recovery codes made anew');
      return this.secondFactor.renewRecoveryCodes(tx, actor.name);
    });
  }

  /** @throws a problem where it is not the password of the one who asks */
  private async confirm(current: string, actor: Actor): Promise<void> {
    const [row] = await this.db.select().from(people).where(eq(people.name, actor.name));
    if (!row || !(await isPassword(current, row.passwordHash))) throw wrongPassword();
  }

  private note(tx: Queryable, actor: Actor, action: string): Promise<void> {
    return appendAudit(tx, { actor: actor.name, action, subject: actor.name, details: {} });
  }
}

async function rowOf(tx: Queryable, name: string): Promise<typeof people.$inferSelect> {
  const [row] = await tx.select().from(people).where(eq(people.name, name)).for('update');
  if (!row) throw notFound('person', name);
  return row;
}

/** Two administrators who disable one another at the same moment wait for each other here, always in the same order. */
async function holdAdministrators(tx: Queryable): Promise<void> {
  await tx.select().from(people).where(eq(people.role, 'administrator')).orderBy(people.name).for('update');
}

/** Called by whoever holds the administrators. */
async function keepOne(tx: Queryable, name: string): Promise<void> {
  const others = await tx
    .select({ name: people.name })
    .from(people)
    .where(and(eq(people.role, 'administrator'), isNull(people.disabledAt), ne(people.name, name)));
  if (others.length === 0)
    throw conflict(
      `${name} is the only administrator who can sign in.`,
      'Make somebody else an administrator first. Nothing was changed.',
    );
}

/**
 * Adds a person, or gives one a new role and password, from the terminal of the server’s machine: the way back for an
 * administrator who lost everything, the second factor among it.
 */
export async function putPerson(tx: Queryable, name: string, role: Role, password: string): Promise<void> {
  const passwordHash = await hashPassword(password);
  const row = {
    role,
    passwordHash,
    mustChangePassword: false,
    disabledAt: null,
    secondFactorSince: null,
    lastCodeStep: null,
  };
  await tx
    .insert(people)
    .values({ name, ...row })
    .onConflictDoUpdate({ target: people.name, set: row });
  await tx.delete(recoveryCodes).where(eq(recoveryCodes.person, name));
  await endSessionsOf(tx, name);
  await appendAudit(tx, { actor: 'setup', action: 'person added or changed', subject: name, details: { role } });
}
