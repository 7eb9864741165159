import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';
import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { dirname } from 'node:path';
import { eq } from 'drizzle-orm';
import type { Queryable } from './database.js';
import { secrets } from './schema.js';

/** Seals and opens secrets with AES-256-GCM; a secret's name is bound to it, so that sealed rows can't be swapped. */
export class Sealing {
  constructor(private readonly key: Buffer) {
    if (key.length !== 32) throw new Error('the sealing key must have 32 bytes');
  }

  /** The key from the environment (Base64) or from a file that only its owner can read, made at the first start. */
  static async fromFile(file: string, fromEnvironment: string | undefined): Promise<Sealing> {
    if (fromEnvironment) return new Sealing(Buffer.from(fromEnvironment, 'base64'));
    try {
      return new Sealing(Buffer.from(await readFile(file, 'utf8'), 'base64'));
    } catch (error) {
      if (!(error instanceof Error && 'code' in error && error.code === 'ENOENT')) throw error;
      const key = randomBytes(32);
      await mkdir(dirname(file), { recursive: true, mode: 0o700 });
      await writeFile(file, key.toString('base64'), { mode: 0o600, flag: 'wx' });
      return new Sealing(key);
    }
  }

  seal(name: string, secret: string): string {
    const nonce = randomBytes(12);
    const cipher = createCipheriv('aes-256-gcm', this.key, nonce).setAAD(Buffer.from(name));
    const sealed = Buffer.concat([cipher.update(secret, 'utf8'), cipher.final()]);
    return Buffer.concat([nonce, cipher.getAuthTag(), sealed]).toString('base64');
  }

  open(name: string, sealed: string): string {
    const bytes = Buffer.from(sealed, 'base64');
    const decipher = createDecipheriv('aes-256-gcm', this.key, bytes.subarray(0, 12)).setAAD(Buffer.from(name));
    decipher.setAuthTag(bytes.subarray(12, 28));
    return Buffer.concat([decipher.update(bytes.subarray(28)), decipher.final()]).toString('utf8');
  }
}

/** The secrets of the installation, by name. */
export class SecretStore {
  constructor(private readonly sealing: Sealing) {}

  async keep(db: Queryable, name: string, secret: string): Promise<void> {
    const sealed = this.sealing.seal(name, secret);
    await db.insert(secrets).values({ name, sealed }).onConflictDoUpdate({ target: secrets.name, set: { sealed } });
  }

  async find(db: Queryable, name: string): Promise<string | null> {
    const [row] = await db.select().from(secrets).where(eq(secrets.name, name));
    return row ? this.sealing.open(name, row.sealed) : null;
  }

  async has(db: Queryable, name: string): Promise<boolean> {
    const rows = await db.select({ name: secrets.name }).from(secrets).where(eq(secrets.name, name));
    return rows.length > 0;
  }

  async forget(db: Queryable, name: string): Promise<void> {
    await db.delete(secrets).where(eq(secrets.name, name));
  }
}

export const passwordOf = (linkId: string): string => `password of link ${linkId}`;
export const keyOf = (applicationId: string): string => `key of ${applicationId}`;
