import { eq } from 'drizzle-orm';
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
