import { createHash, randomBytes } from 'node:crypto';
import { and, eq, gt, lt } from 'drizzle-orm';
import type { Role, SignedIn } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database, Queryable } from '../database/database.js';
import { people, signIns } from '../database/schema.js';
import { wrongSignIn } from '../http/problems.js';
import type { Actor } from '../http/serve.js';
import { readSetting } from '../plant/store.js';
import { hashPassword, isPassword } from './passwords.js';

const hoursOpen = 12;
const hashOfCookie = (cookie: string): string => createHash('sha256').update(cookie).digest('hex');
/** Compared against where there is no such person, so that both answers take as long. */
const nobodysHash = hashPassword(randomBytes(16).toString('hex'));

/** Signs people in and out, and finds them again by their cookie. */
export class People {
  constructor(private readonly db: Database) {}

  async signIn(name: string, password: string): Promise<{ cookie: string; signedIn: SignedIn }> {
    const [person] = await this.db.select().from(people).where(eq(people.name, name));
    const fits = await isPassword(password, person?.passwordHash ?? (await nobodysHash));
    if (!person || !fits) {
      await appendIn(this.db, name, 'sign-in refused');
      throw wrongSignIn();
    }
    const cookie = randomBytes(32).toString('base64url');
    const token = randomBytes(24).toString('base64url');
    const expiresAt = new Date(Date.now() + hoursOpen * 3_600_000).toISOString();
    await this.db.transaction(async (tx) => {
      await tx.delete(signIns).where(lt(signIns.expiresAt, new Date().toISOString()));
      await tx.insert(signIns).values({ cookieHash: hashOfCookie(cookie), person: name, token, expiresAt });
      await appendAudit(tx, { actor: name, action: 'signed in', subject: name, details: {} });
    });
    return { cookie, signedIn: await this.describe({ name, role: person.role, token }) };
  }

  async find(cookie: string): Promise<Actor | null> {
    const [row] = await this.db
      .select({ name: people.name, role: people.role, token: signIns.token })
      .from(signIns)
      .innerJoin(people, eq(people.name, signIns.person))
      .where(and(eq(signIns.cookieHash, hashOfCookie(cookie)), gt(signIns.expiresAt, new Date().toISOString())));
    return row ?? null;
  }

  async signOut(cookie: string, actor: Actor): Promise<void> {
    await this.db.transaction(async (tx) => {
      await tx.delete(signIns).where(eq(signIns.cookieHash, hashOfCookie(cookie)));
      await appendAudit(tx, { actor: actor.name, action: 'signed out', subject: actor.name, details: {} });
    });
  }

  async describe({ name, role, token }: Actor): Promise<SignedIn> {
    const plantName = await readSetting(this.db, 'plantName');
    return { name, role, token, plantName: typeof plantName === 'string' ? plantName : 'Plant' };
  }
}

const appendIn = (db: Database, name: string, action: string): Promise<void> =>
  db.transaction((tx) => appendAudit(tx, { actor: 'nobody', action, subject: name.slice(0, 100), details: {} }));

/** Adds a person, or gives one a new role and password. */
export async function putPerson(tx: Queryable, name: string, role: Role, password: string): Promise<void> {
  const passwordHash = await hashPassword(password);
  await tx
    .insert(people)
    .values({ name, role, passwordHash })
    .onConflictDoUpdate({ target: people.name, set: { role, passwordHash } });
  await appendAudit(tx, { actor: 'setup', action: 'person added or changed', subject: name, details: { role } });
}
