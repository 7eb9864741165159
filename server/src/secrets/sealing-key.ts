import { randomBytes } from 'node:crypto';
import { inArray } from 'drizzle-orm';
import { byNumber } from '@loyal-hinge/core';
import { readIfThere, writeWhole } from '../system/files.js';
import { StartRefusal } from '../system/start-refusal.js';
import { appendAudit } from '../audit/trail.js';
import type { Database } from '../database/database.js';
import { secrets } from '../database/schema.js';
import { Sealing } from './sealing.js';

const keyBytes = 32;
const mostNamed = 12;

export interface KeyPlace {
  /** A file that only its owner can read; made at the first start. */
  readonly file: string;
  /** The key itself (Base64), where the environment gives it. */
  readonly fromEnvironment: string | undefined;
  /** Whether secrets that can't be opened any more are to be forgotten. */
  readonly forgetsUnopenable: boolean;
}

/**
 * The sealing of this installation. A key is made only where nothing was ever sealed: a lost or foreign one is told
 * with what it can't open, and replaced only where its owner says that these secrets may be forgotten.
 * @throws StartRefusal in plain words
 */
export async function openSealing(db: Database, place: KeyPlace): Promise<Sealing> {
  const found = await findSealing(place);
  const rows = await db.select().from(secrets);
  const lost = rows.filter((row) => !found || !opens(found, row)).map(({ name }) => name);
  if (lost.length > 0) {
    if (!place.forgetsUnopenable) throw new StartRefusal(lostWords(place, found !== null, lost));
    await forget(db, lost);
  }
  return found ?? makeKey(place.file);
}

/** The sealing as it is; null: there is no key, or none of this kind. */
export async function findSealing({ file, fromEnvironment }: KeyPlace): Promise<Sealing | null> {
  if (fromEnvironment !== undefined) {
    const key = Buffer.from(fromEnvironment, 'base64');
    if (key.length !== keyBytes)
      throw new StartRefusal(`HINGE_KEY must be ${keyBytes} bytes in Base64; it has ${key.length}.`);
    return new Sealing(key);
  }
  const kept = await readIfThere(file);
  const key = Buffer.from(kept ?? '', 'base64');
  return key.length === keyBytes ? new Sealing(key) : null;
}

async function makeKey(file: string): Promise<Sealing> {
  const key = randomBytes(keyBytes);
  await writeWhole(file, key.toString('base64'));
  return new Sealing(key);
}

function opens(sealing: Sealing, { name, sealed, target }: typeof secrets.$inferSelect): boolean {
  try {
    sealing.open(name, sealed, target);
    return true;
  } catch {
    return false;
  }
}

async function forget(db: Database, names: readonly string[]): Promise<void> {
  await db.transaction(async (tx) => {
    await tx.delete(secrets).where(inArray(secrets.name, [...names]));
    const details = { secrets: names };
    await appendAudit(tx, { actor: 'setup', action: 'secrets forgotten', subject: 'sealing key', details });
  });
}

function lostWords({ file, fromEnvironment }: KeyPlace, hasKey: boolean, lost: readonly string[]): string {
  const key = fromEnvironment === undefined ? `The sealing key in ${file}` : 'The sealing key in HINGE_KEY';
  const trouble = hasKey ? `${key} is not the one that these data were sealed with.` : `${key} is missing or damaged.`;
  const closed = byNumber(lost.length, 'Without it one secret can’t be opened', 'Without it # secrets can’t be opened');
  const named = lost.slice(0, mostNamed).join('; ');
  const more = lost.length > mostNamed ? `; and ${lost.length - mostNamed} more` : '';
  return (
    `${trouble} ${closed}: ${named}${more}. ` +
    'Restore the key from a backup. If there is none, start with “--forget-secrets”: these secrets are forgotten, and must be given again in Settings, on the links and on the Authority page; ends of tunnels and probes need new tickets. Nothing was changed.'
  );
}
