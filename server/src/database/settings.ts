import { eq } from 'drizzle-orm';
import { usualDevicePauseMs } from '@loyal-hinge/contract';
import type { Queryable } from './database.js';
import { settings } from './schema.js';

export async function readSetting(db: Queryable, key: string): Promise<unknown> {
  const [row] = await db.select().from(settings).where(eq(settings.key, key));
  return row?.value;
}

/** `null` is kept as nothing: reading it gives undefined. */
export async function writeSetting(db: Queryable, key: string, value: unknown): Promise<void> {
  if (value === null) {
    await db.delete(settings).where(eq(settings.key, key));
    return;
  }
  await db.insert(settings).values({ key, value }).onConflictDoUpdate({ target: settings.key, set: { value } });
}

/** What the plant is called; “Plant” where nobody has said so yet. */
export async function plantNameOf(db: Queryable): Promise<string> {
  const name = await readSetting(db, 'plantName');
  return typeof name === 'string' ? name : 'Plant';
}

/** Address ranges in which machines may be dialled, in CIDR notation; none: nobody has declared any, and nothing may be. */
export async function declaredRangesOf(db: Queryable): Promise<readonly string[]> {
  const ranges = await readSetting(db, 'declaredRanges');
  return Array.isArray(ranges) ? ranges.map(String) : [];
}

/** The name server that is asked for hosts of the plant; null: the system’s. */
export async function nameServerOf(db: Queryable): Promise<string | null> {
  const address = await readSetting(db, 'nameServer');
  return typeof address === 'string' ? address : null;
}

/** How long is waited between two requests to a field device, in ms. */
export async function devicePauseOf(db: Queryable): Promise<number> {
  const ms = await readSetting(db, 'devicePauseMs');
  return typeof ms === 'number' ? ms : usualDevicePauseMs;
}
