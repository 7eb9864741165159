import { asc, eq, inArray } from 'drizzle-orm';
import type { Queryable } from '../database/database.js';
import { outposts, probeMachines } from '../database/schema.js';
import type { OutpostRow } from '../outposts/store.js';

export const readProbes = (db: Queryable): Promise<OutpostRow[]> =>
  db.select().from(outposts).where(eq(outposts.kind, 'probe')).orderBy(asc(outposts.name), asc(outposts.id));

/** Which machines each probe stands for. */
export async function machinesOfProbes(db: Queryable): Promise<ReadonlyMap<string, readonly string[]>> {
  const rows = await db.select().from(probeMachines).orderBy(asc(probeMachines.machineId));
  const of = new Map<string, string[]>();
  for (const { outpostId, machineId } of rows) of.set(outpostId, [...(of.get(outpostId) ?? []), machineId]);
  return of;
}

/** The probe that stands for a machine; null: the server itself dials for it. */
export async function probeFor(db: Queryable, machineId: string): Promise<OutpostRow | null> {
  const [row] = await db
    .select({ probe: outposts })
    .from(probeMachines)
    .innerJoin(outposts, eq(outposts.id, probeMachines.outpostId))
    .where(eq(probeMachines.machineId, machineId));
  return row?.probe ?? null;
}

export async function putProbe(
  tx: Queryable,
  {
    id,
    name,
    machineId,
    machineIds,
  }: { readonly id: string; readonly name: string; readonly machineId: string; readonly machineIds: readonly string[] },
): Promise<void> {
  await tx
    .insert(outposts)
    .values({ id, kind: 'probe', name, machineId })
    .onConflictDoUpdate({ target: outposts.id, set: { name, machineId } });
  await tx.delete(probeMachines).where(eq(probeMachines.outpostId, id));
  if (machineIds.length > 0)
    await tx.insert(probeMachines).values(machineIds.map((each) => ({ machineId: each, outpostId: id })));
}

export async function removeProbe(tx: Queryable, id: string): Promise<void> {
  await tx.delete(outposts).where(eq(outposts.id, id));
}

/** Those of some machines for which another probe stands, with its name. */
export async function takenMachines(db: Queryable, machineIds: readonly string[], own: string | null) {
  if (machineIds.length === 0) return [];
  const rows = await db
    .select({ machineId: probeMachines.machineId, outpostId: outposts.id, name: outposts.name })
    .from(probeMachines)
    .innerJoin(outposts, eq(outposts.id, probeMachines.outpostId))
    .where(inArray(probeMachines.machineId, [...machineIds]));
  return rows.filter(({ outpostId }) => outpostId !== own);
}
