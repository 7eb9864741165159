import { and, desc, eq, gt, isNull, lte, or, sql } from 'drizzle-orm';
import { entryFloor } from '@loyal-hinge/contract';
import { noFloor } from '@loyal-hinge/core';
import type { EntryException, EntryFloor } from '@loyal-hinge/core';
import type { GiveException } from '@loyal-hinge/contract';
import type { Queryable } from '../../database/database.js';
import { ofThese } from '../../database/of-these.js';
import { entryExceptions } from '../../database/schema.js';
import { readSetting } from '../../database/settings.js';

export type KeptException = typeof entryExceptions.$inferSelect;

/** The setting in which the plant’s floor is kept. */
export const floorSetting = 'entryFloor';

/** What the plant accepts; everything where nobody has said so yet. */
export async function plantFloorOf(db: Queryable): Promise<EntryFloor> {
  const kept = entryFloor.safeParse(await readSetting(db, floorSetting));
  return kept.success ? kept.data : noFloor;
}

/** Exceptions that hold now: of some servers and links, or of all. */
export async function exceptionsInForce(db: Queryable, subjectIds?: readonly string[]): Promise<EntryException[]> {
  const rows = await db
    .select()
    .from(entryExceptions)
    .where(
      and(
        isNull(entryExceptions.endedAt),
        gt(entryExceptions.until, new Date().toISOString()),
        ofThese(entryExceptions.subjectId, subjectIds),
      ),
    );
  return rows.map(({ id, of, subjectId, floor, reason, until, givenBy }) => ({
    id: String(id),
    of,
    subjectId,
    floor,
    reason,
    until: new Date(until).toISOString(),
    by: givenBy,
  }));
}

/** All that were ever made, the newest first; at most so many. */
export const allExceptions = (db: Queryable, most: number): Promise<KeptException[]> =>
  db.select().from(entryExceptions).orderBy(desc(entryExceptions.id)).limit(most);

export async function findException(db: Queryable, id: number): Promise<KeptException | null> {
  const [row] = await db.select().from(entryExceptions).where(eq(entryExceptions.id, id));
  return row ?? null;
}

/** The one of a server or link that nobody has ended yet. */
export async function openException(
  db: Queryable,
  { of, subjectId }: Pick<GiveException, 'of' | 'subjectId'>,
): Promise<KeptException | null> {
  const [row] = await db
    .select()
    .from(entryExceptions)
    .where(and(eq(entryExceptions.of, of), eq(entryExceptions.subjectId, subjectId), isNull(entryExceptions.endedAt)));
  return row ?? null;
}

export async function addException(tx: Queryable, wish: GiveException, givenBy: string): Promise<number> {
  const [row] = await tx
    .insert(entryExceptions)
    .values({ ...wish, givenBy })
    .returning({ id: entryExceptions.id });
  if (!row) throw new Error('the exception was not kept');
  return row.id;
}

/** Ends an exception once; false where it has ended already. */
export async function endException(tx: Queryable, id: number, endedBy: string): Promise<boolean> {
  const ended = await tx
    .update(entryExceptions)
    .set({ endedAt: new Date().toISOString(), endedBy })
    .where(and(eq(entryExceptions.id, id), isNull(entryExceptions.endedAt)))
    .returning({ id: entryExceptions.id });
  return ended.length > 0;
}

/** Exceptions whose date has passed, or whose server or link is gone, and whose end nobody has noted yet. */
export const exceptionsThatAreOver = (db: Queryable): Promise<KeptException[]> => {
  const isGone = sql`${entryExceptions.subjectId} not in (
    select id from applications where ${entryExceptions.of} = 'server' and kind = 'server'
    union all select id from links where ${entryExceptions.of} = 'link')`;
  return db
    .select()
    .from(entryExceptions)
    .where(and(isNull(entryExceptions.endedAt), or(lte(entryExceptions.until, new Date().toISOString()), isGone)));
};
