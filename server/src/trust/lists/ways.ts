import { and, eq, isNull } from 'drizzle-orm';
import type { Queryable } from '../../database/database.js';
import { ofThese } from '../../database/of-these.js';
import { applications, clientCertificates, trustWays } from '../../database/schema.js';

export type KeptWay = typeof trustWays.$inferSelect;

export async function wayOf(db: Queryable, applicationId: string): Promise<KeptWay | null> {
  const [row] = await db.select().from(trustWays).where(eq(trustWays.applicationId, applicationId));
  return row ?? null;
}

export async function allWays(
  db: Queryable,
  applicationIds?: readonly string[],
): Promise<ReadonlyMap<string, KeptWay>> {
  const rows = await db.select().from(trustWays).where(ofThese(trustWays.applicationId, applicationIds));
  return new Map(rows.map((row) => [row.applicationId, row]));
}

/** Those whose lists go over push management: the product reads and writes them itself. */
export async function pushedApplications(db: Queryable): Promise<readonly string[]> {
  const rows = await db
    .select({ id: trustWays.applicationId })
    .from(trustWays)
    .innerJoin(applications, eq(applications.id, trustWays.applicationId))
    .leftJoin(clientCertificates, eq(clientCertificates.applicationId, trustWays.applicationId))
    .where(and(eq(trustWays.way, 'push'), isNull(clientCertificates.applicationId)));
  return rows.map(({ id }) => id);
}

export async function setWay(tx: Queryable, kept: Omit<KeptWay, 'restarts'>): Promise<void> {
  await tx.insert(trustWays).values(kept).onConflictDoUpdate({ target: trustWays.applicationId, set: kept });
}

export async function forgetWay(tx: Queryable, applicationId: string): Promise<void> {
  await tx.delete(trustWays).where(eq(trustWays.applicationId, applicationId));
}

export async function noteRestarts(tx: Queryable, applicationId: string, restarts: boolean): Promise<void> {
  await tx
    .update(trustWays)
    .set({ restarts })
    .where(and(eq(trustWays.applicationId, applicationId)));
}
