import { and, asc, eq, gt, isNull, lte } from 'drizzle-orm';
import type { WaivableStep, Waiver } from '@loyal-hinge/core';
import type { Queryable } from '../../database/database.js';
import { ofThese } from '../../database/of-these.js';
import { waivers } from '../../database/schema.js';

export type KeptWaiver = typeof waivers.$inferSelect;

export interface NewWaiver {
  readonly holderId: string;
  readonly thumbprint: string;
  readonly step: WaivableStep;
  readonly until: string;
  readonly why: string;
  readonly givenBy: string;
}

export async function addWaiver(tx: Queryable, waiver: NewWaiver): Promise<number> {
  const [row] = await tx.insert(waivers).values(waiver).returning({ id: waivers.id });
  if (!row) throw new Error('the waiver was not kept');
  return row.id;
}

export async function findWaiver(db: Queryable, id: number): Promise<KeptWaiver | null> {
  const [row] = await db.select().from(waivers).where(eq(waivers.id, id));
  return row ?? null;
}

/** All that were ever given for a certificate, the oldest first. */
export const waiversFor = (db: Queryable, thumbprint: string): Promise<KeptWaiver[]> =>
  db.select().from(waivers).where(eq(waivers.thumbprint, thumbprint)).orderBy(asc(waivers.id));

/** What is in force, by the application that passes over it. */
export async function waiversInForce(
  db: Queryable,
  holderIds?: readonly string[],
): Promise<ReadonlyMap<string, readonly Waiver[]>> {
  const rows = await db
    .select()
    .from(waivers)
    .where(
      and(isNull(waivers.endedAt), gt(waivers.until, new Date().toISOString()), ofThese(waivers.holderId, holderIds)),
    );
  const byHolder = new Map<string, Waiver[]>();
  for (const { holderId, thumbprint, step, until } of rows)
    byHolder.set(holderId, [
      ...(byHolder.get(holderId) ?? []),
      { thumbprint, step, until: new Date(until).toISOString() },
    ]);
  return byHolder;
}

/** Ends a waiver once; false where it has ended already. */
export async function endWaiver(tx: Queryable, id: number, endedBy: string): Promise<boolean> {
  const ended = await tx
    .update(waivers)
    .set({ endedAt: new Date().toISOString(), endedBy })
    .where(and(eq(waivers.id, id), isNull(waivers.endedAt)))
    .returning({ id: waivers.id });
  return ended.length > 0;
}

/** Waivers whose date has passed, and whose end nobody has noted yet. */
export const waiversThatAreOver = (db: Queryable): Promise<KeptWaiver[]> =>
  db
    .select()
    .from(waivers)
    .where(and(isNull(waivers.endedAt), lte(waivers.until, new Date().toISOString())));
