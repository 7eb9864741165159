import { createHash, randomBytes } from 'node:crypto';
import { and, eq, gt, isNull, lt } from 'drizzle-orm';
import type { SignedIn } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import { tellSignInsEnded } from '../events/notices.js';
import type { Database } from '../database/database.js';
import { people, signIns } from '../database/schema.js';
import { codeNeeded, wrongCode, wrongSignIn } from '../http/problems.js';
import type { Actor } from '../http/serve.js';
import { plantNameOf } from '../database/settings.js';
import { isPassword, nobodysHash } from './passwords.js';
import type { SecondFactor } from './second-factor.js';

const hoursOpen = 12;
/** When a session was last seen is noted at most this often. */
const seenEveryMs = 60_000;
const hashOfCookie = (cookie: string): string => createHash('sha256').update(cookie).digest('hex');

/** Where a request comes from, as it is shown in lists of sessions. */
export interface Asker {
  readonly address: string;
  readonly browser: string;
}

export interface SignInWish {
  readonly name: string;
  readonly password: string;
  readonly code?: string | undefined;
}

/** Signs people in and out, and finds them again by their cookie. */
export class People {
  constructor(
    private readonly db: Database,
    private readonly secondFactor: SecondFactor,
    /** The number of the newest event. */
    private readonly newestEvent: () => Promise<number>,
  ) {}

  async signIn({ name, password, code }: SignInWish, asker: Asker): Promise<{ cookie: string; signedIn: SignedIn }> {
    const [person] = await this.db.select().from(people).where(eq(people.name, name));
    // Compared where there is no such person, too, so that both answers take as long.
    const fits = await isPassword(password, person?.passwordHash ?? nobodysHash());
    if (!person || !fits || person.disabledAt !== null) {
      await this.noteRefusal(name, person && fits ? 'sign-in of a disabled person refused' : 'sign-in refused');
      throw wrongSignIn();
    }
    if (person.secondFactorSince !== null && code === undefined) throw codeNeeded();
    const cookie = randomBytes(32).toString('base64url');
    const token = randomBytes(24).toString('base64url');
    const now = new Date();
    const expiresAt = new Date(now.getTime() + hoursOpen * 3_600_000).toISOString();
    const isIn = await this.db.transaction(async (tx) => {
      const used = person.secondFactorSince === null ? 'password' : await this.secondFactor.use(tx, name, code ?? '');
      if (used === null) return false;
      // Whoever was disabled, or given another password or a second factor, while the password was compared stays outside.
      const [still] = await tx
        .update(people)
        .set({ lastSignedInAt: now.toISOString() })
        .where(
          and(
            eq(people.name, name),
            eq(people.passwordHash, person.passwordHash),
            isNull(people.disabledAt),
            person.secondFactorSince === null ? isNull(people.secondFactorSince) : undefined,
          ),
        )
        .returning({ name: people.name });
      if (!still) return false;
      await tx.delete(signIns).where(lt(signIns.expiresAt, now.toISOString()));
      await tx.insert(signIns).values({ cookieHash: hashOfCookie(cookie), person: name, token, expiresAt, ...asker });
      const details = person.secondFactorSince === null ? {} : { by: used };
      await appendAudit(tx, { actor: name, action: 'signed in', subject: name, details });
      return true;
    });
    if (!isIn) {
      await this.noteRefusal(name, 'code refused');
      throw wrongCode();
    }
    const { role, mustChangePassword } = person;
    return { cookie, signedIn: await this.describe({ name, role, token, mustChangePassword }) };
  }

  async find(cookie: string, asker: Asker): Promise<Actor | null> {
    const cookieHash = hashOfCookie(cookie);
    const [row] = await this.db
      .select({
        name: people.name,
        role: people.role,
        token: signIns.token,
        mustChangePassword: people.mustChangePassword,
        seenAt: signIns.seenAt,
      })
      .from(signIns)
      .innerJoin(people, eq(people.name, signIns.person))
      .where(
        and(
          eq(signIns.cookieHash, cookieHash),
          gt(signIns.expiresAt, new Date().toISOString()),
          isNull(people.disabledAt),
        ),
      );
    if (!row) return null;
    const { seenAt, ...actor } = row;
    if (Date.now() - Date.parse(seenAt) > seenEveryMs) void this.noteSeen(cookieHash, asker);
    return actor;
  }

  async signOut(cookie: string, actor: Actor): Promise<void> {
    await this.db.transaction(async (tx) => {
      await tx.delete(signIns).where(eq(signIns.cookieHash, hashOfCookie(cookie)));
      await tellSignInsEnded(tx);
      await appendAudit(tx, { actor: actor.name, action: 'signed out', subject: actor.name, details: {} });
    });
  }

  async describe({ name, role, token, mustChangePassword }: Actor): Promise<SignedIn> {
    const [plantName, newestEvent] = await Promise.all([plantNameOf(this.db), this.newestEvent()]);
    return { name, role, token, mustChangePassword, plantName, newestEvent };
  }

  /** Nobody waits for it, and a call does not fail for its sake. */
  private noteSeen(cookieHash: string, asker: Asker): Promise<unknown> {
    const seen = { seenAt: new Date().toISOString(), ...asker };
    return this.db
      .update(signIns)
      .set(seen)
      .where(eq(signIns.cookieHash, cookieHash))
      .catch(() => undefined);
  }

  private noteRefusal(name: string, action: string): Promise<void> {
    const subject = name.slice(0, 100);
    return this.db.transaction((tx) => appendAudit(tx, { actor: 'nobody', action, subject, details: {} }));
  }
}
