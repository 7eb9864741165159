import { createHash, randomInt } from 'node:crypto';
import { and, eq, isNull, lt, or } from 'drizzle-orm';
import { Secret, TOTP } from 'otpauth';
import type { Queryable } from '../database/database.js';
import type { SecretStore } from '../secrets/sealing.js';
import { people, recoveryCodes } from '../database/schema.js';
import { conflict } from '../http/problems.js';

const secondsOfStep = 30;
/** Clocks may be a step apart (RFC 6238 §5.2). */
const stepsApart = 1;
const secretBytes = 20;
const codesGiven = 10;
/** Letters that can’t be mistaken for one another: 32 of them, five bits each. */
const letters = 'abcdefghjkmnpqrstuvwxyz023456789';
const lettersOfCode = 16;

const secretOf = (person: string): string => `second factor of ${person}`;
const wantedOf = (person: string): string => `wanted second factor of ${person}`;
const totp = (secret: Secret, person = '', issuer = ''): TOTP =>
  new TOTP({ secret, label: person, issuer, period: secondsOfStep, digits: 6, algorithm: 'SHA1' });
const hashOf = (code: string): string => createHash('sha256').update(code).digest('hex');
const plain = (code: string): string => code.replaceAll(/[\s-]/g, '').toLowerCase();

/** One-time passwords by time (RFC 6238) as a second factor, and recovery codes for the day on which the device is lost. */
export class SecondFactor {
  constructor(
    private readonly secrets: SecretStore,
    private readonly nowMs: () => number = Date.now,
  ) {}

  /** A secret that counts once a code of it was given back. */
  async begin(tx: Queryable, person: string, plantName: string): Promise<{ uri: string; letters: string }> {
    const secret = new Secret({ size: secretBytes });
    await this.secrets.keep(tx, wantedOf(person), secret.base32, null);
    return { uri: totp(secret, person, `Loyal Hinge, ${plantName}`).toString(), letters: secret.base32 };
  }

  /**
   * @returns recovery codes
   * @throws a problem where nothing was begun, or the code does not fit
   */
  async confirm(tx: Queryable, person: string, code: string): Promise<readonly string[]> {
    const wanted = await this.secrets.find(tx, wantedOf(person));
    if (wanted === null) throw conflict('No second factor was begun.', 'Begin with your password.');
    const step = this.stepOf(wanted, plain(code));
    if (step === null)
      throw conflict(
        'The code does not fit.',
        'Type the code that the application shows now; where none fits, compare the clocks of the device and of the server.',
      );
    await this.secrets.forget(tx, wantedOf(person));
    await this.secrets.keep(tx, secretOf(person), wanted, null);
    await tx
      .update(people)
      .set({ secondFactorSince: new Date(this.nowMs()).toISOString(), lastCodeStep: step })
      .where(eq(people.name, person));
    return this.renewRecoveryCodes(tx, person);
  }

  async end(tx: Queryable, person: string): Promise<void> {
    await this.secrets.forget(tx, secretOf(person));
    await this.secrets.forget(tx, wantedOf(person));
    await tx.delete(recoveryCodes).where(eq(recoveryCodes.person, person));
    await tx.update(people).set({ secondFactorSince: null, lastCodeStep: null }).where(eq(people.name, person));
  }

  async renewRecoveryCodes(tx: Queryable, person: string): Promise<readonly string[]> {
    const codes = Array.from({ length: codesGiven }, () =>
      Array.from({ length: lettersOfCode }, () => letters[randomInt(letters.length)]).join(''),
    );
    await tx.delete(recoveryCodes).where(eq(recoveryCodes.person, person));
    await tx.insert(recoveryCodes).values(codes.map((code) => ({ person, codeHash: hashOf(code) })));
    return codes.map((code) => code.match(/.{4}/g)?.join('-') ?? code);
  }

  /** Uses a code up; null: it does not fit, or was used before. */
  async use(tx: Queryable, person: string, code: string): Promise<'code' | 'recovery code' | null> {
    const given = plain(code);
    const secret = await this.secrets.find(tx, secretOf(person)).catch(() => null);
    const step = secret === null ? null : this.stepOf(secret, given);
    if (step !== null) {
      const isNew = or(isNull(people.lastCodeStep), lt(people.lastCodeStep, step));
      const used = await tx
        .update(people)
        .set({ lastCodeStep: step })
        .where(and(eq(people.name, person), isNew))
        .returning({ name: people.name });
      return used.length > 0 ? 'code' : null;
    }
    const used = await tx
      .delete(recoveryCodes)
      .where(and(eq(recoveryCodes.person, person), eq(recoveryCodes.codeHash, hashOf(given))))
      .returning({ person: recoveryCodes.person });
    return used.length > 0 ? 'recovery code' : null;
  }

  /** The time step that a code belongs to; null: to none about now. */
  private stepOf(secret: string, code: string): number | null {
    if (!/^\d{6}$/.test(code)) return null;
    const timestamp = this.nowMs();
    const apart = totp(Secret.fromBase32(secret)).validate({ token: code, timestamp, window: stepsApart });
    return apart === null ? null : Math.floor(timestamp / 1000 / secondsOfStep) + apart;
  }
}
