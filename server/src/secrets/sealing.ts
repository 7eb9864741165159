import { createCipheriv, createDecipheriv, createHmac, hkdfSync, randomBytes } from 'node:crypto';
import { isDeepStrictEqual } from 'node:util';
import { and, eq, isNull } from 'drizzle-orm';
import { isSameTarget } from '@loyal-hinge/core';
import type { PasswordTarget } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import { secrets } from '../database/schema.js';
import type { SecretTarget } from '../database/schema.js';

/**
 * Seals and opens secrets with AES-256-GCM. A secret’s name and its target are bound to it, so that sealed rows can’t be
 * swapped, nor sent elsewhere by whoever can write to the table alone.
 */
export class Sealing {
  private readonly macKeys = new Map<string, Buffer>();

  constructor(private readonly key: Buffer) {
    if (key.length !== 32) throw new Error('the sealing key must have 32 bytes');
  }

  /** A keyed digest (HMAC-SHA-256, RFC 2104) of a text, by a key of its own for each purpose (HKDF, RFC 5869). */
  mac(purpose: string, text: string): string {
    const key =
      this.macKeys.get(purpose) ?? Buffer.from(hkdfSync('sha256', this.key, '', `loyal-hinge ${purpose}`, 32));
    this.macKeys.set(purpose, key);
    return createHmac('sha256', key).update(text).digest('base64url');
  }

  seal(name: string, secret: string, target: SecretTarget | null = null): string {
    const nonce = randomBytes(12);
    const cipher = createCipheriv('aes-256-gcm', this.key, nonce).setAAD(boundBytes(name, target));
    const sealed = Buffer.concat([cipher.update(secret, 'utf8'), cipher.final()]);
    return Buffer.concat([nonce, cipher.getAuthTag(), sealed]).toString('base64');
  }

  /** @throws where it was sealed with another key, under another name or for another target */
  open(name: string, sealed: string, target: SecretTarget | null = null): string {
    const bytes = Buffer.from(sealed, 'base64');
    const decipher = createDecipheriv('aes-256-gcm', this.key, bytes.subarray(0, 12)).setAAD(boundBytes(name, target));
    decipher.setAuthTag(bytes.subarray(12, 28));
    return Buffer.concat([decipher.update(bytes.subarray(28)), decipher.final()]).toString('utf8');
  }
}

/** The database gives a target’s fields back in an order of its own. */
function boundBytes(name: string, target: SecretTarget | null): Buffer {
  if (target === null) return Buffer.from(name);
  const fields = Object.entries(target).sort(([one], [other]) => (one < other ? -1 : 1));
  return Buffer.from(`${name}\n${JSON.stringify(fields)}`);
}

const isPasswords = (target: SecretTarget): target is PasswordTarget => 'endpointUrl' in target;

const isSame = (one: SecretTarget, other: SecretTarget): boolean =>
  isPasswords(one) && isPasswords(other) ? isSameTarget(one, other) : isDeepStrictEqual(one, other);

/** A secret as it is kept: opened where it may be used, and otherwise only told of. */
export type Kept = { readonly secret: string } | { readonly keptFor: SecretTarget };

/** The secrets of the installation, by name. */
export class SecretStore {
  constructor(private readonly sealing: Sealing) {}

  /** Keeps a secret for one target; null: its name is all that it is for. */
  async keep(db: Queryable, name: string, secret: string, target: SecretTarget | null): Promise<void> {
    const mark = this.markOf(secret);
    const row = { sealed: this.sealing.seal(name, secret, target), target, movedTo: null, movedBy: [], mark };
    await db
      .insert(secrets)
      .values({ name, ...row })
      .onConflictDoUpdate({ target: secrets.name, set: row });
  }

  /** Opens a secret for the target that it is wanted for, and for no other; null: there is none. */
  async findFor(db: Queryable, name: string, target: SecretTarget): Promise<Kept | null> {
    const [row] = await db.select().from(secrets).where(eq(secrets.name, name));
    if (!row?.target) return null;
    if (!isSame(row.target, target)) return { keptFor: row.target };
    return { secret: this.sealing.open(name, row.sealed, row.target) };
  }

  /** Opens a secret that is bound to its name alone. */
  async find(db: Queryable, name: string): Promise<string | null> {
    const [row] = await db.select().from(secrets).where(eq(secrets.name, name));
    return row && row.target === null ? this.sealing.open(name, row.sealed) : null;
  }

  /** A keyed digest by which it is seen whether two secrets are the same, without opening them; it tells nothing else of them. */
  markOf(secret: string): string {
    return this.sealing.mac('same secrets', secret);
  }

  /** Marks secrets that were kept before there were marks. */
  async markAll(db: Queryable): Promise<void> {
    for (;;) {
      const rows = await db.select().from(secrets).where(isNull(secrets.mark)).limit(200);
      if (rows.length === 0) return;
      for (const { name, sealed, target } of rows)
        await db
          .update(secrets)
          .set({ mark: this.markIn(name, sealed, target) })
          .where(and(eq(secrets.name, name), eq(secrets.sealed, sealed)));
    }
  }

  /** What can’t be opened is the same as nothing else. */
  private markIn(name: string, sealed: string, target: SecretTarget | null): string {
    try {
      return this.markOf(this.sealing.open(name, sealed, target));
    } catch {
      return `not opened: ${name}`;
    }
  }

  async forget(db: Queryable, name: string): Promise<void> {
    await db.delete(secrets).where(eq(secrets.name, name));
  }

  /** What a secret is for, and who changed its owner’s target since; null: there is none. */
  async about(
    db: Queryable,
    name: string,
  ): Promise<{ target: SecretTarget | null; movedBy: readonly string[] } | null> {
    const [row] = await db
      .select({ target: secrets.target, movedBy: secrets.movedBy })
      .from(secrets)
      .where(eq(secrets.name, name));
    return row ?? null;
  }

  /** Gives a secret another target; false where there is none, or it is for another one than `from`. */
  async move(db: Queryable, name: string, from: SecretTarget | null, to: SecretTarget): Promise<boolean> {
    const [row] = await db.select().from(secrets).where(eq(secrets.name, name)).for('update');
    if (!row || (row.target && from ? !isSame(row.target, from) : row.target !== from)) return false;
    await this.keep(db, name, this.sealing.open(name, row.sealed, row.target), to);
    return true;
  }
}

export const passwordOf = (linkId: string): string => `password of link ${linkId}`;
/** A password that a work order will set, by its own id. */
export const newPasswordOf = (secretId: string): string => `new password ${secretId}`;
/** Of a user certificate, by its name in the plant. */
export const userKeyOf = (name: string): string => `user key ${name}`;
export const keyOf = (applicationId: string): string => `key of ${applicationId}`;
