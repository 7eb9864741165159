import { sql } from 'drizzle-orm';
import type { HingeEvent } from '@loyal-hinge/contract';
import type { Queryable } from '../database/database.js';

/** Writes an event down; its number is given one transaction after the other (see the database’s `tell_event`). */
export async function tellEvent(db: Queryable, body: HingeEvent): Promise<void> {
  await db.execute(sql`select tell_event(${JSON.stringify(body)}::jsonb)`);
}
