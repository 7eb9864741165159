import { and, asc, desc, eq, sql } from 'drizzle-orm';
import type { Conduit, KeptRules } from '@loyal-hinge/contract';
import type { PassageDevice, PlantService, RuleSetFormat } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import { conduits, firewallRules, firewalls, machines, plantServices, zones } from '../database/schema.js';

/** Rules of one firewall that are kept; older ones go. */
const mostKept = 20;

export async function readFirewalls(db: Queryable): Promise<readonly PassageDevice[]> {
  return db.select().from(firewalls).orderBy(asc(firewalls.name), asc(firewalls.id));
}

export async function findFirewall(db: Queryable, id: string): Promise<PassageDevice | null> {
  const [row] = await db.select().from(firewalls).where(eq(firewalls.id, id));
  return row ?? null;
}

export async function putFirewall(tx: Queryable, row: PassageDevice): Promise<void> {
  const values = { ...row, interfaces: [...row.interfaces] };
  await tx.insert(firewalls).values(values).onConflictDoUpdate({ target: firewalls.id, set: values });
}

export async function removeFirewall(tx: Queryable, id: string): Promise<boolean> {
  const gone = await tx.delete(firewalls).where(eq(firewalls.id, id)).returning({ id: firewalls.id });
  await tx
    .update(conduits)
    .set({ firewallIds: sql`array_remove(${conduits.firewallIds}, ${id})` })
    .where(sql`${id} = any(${conduits.firewallIds})`);
  return gone.length > 0;
}

export async function readConduits(db: Queryable): Promise<readonly Conduit[]> {
  return db.select().from(conduits).orderBy(asc(conduits.name), asc(conduits.id));
}

export async function putConduit(tx: Queryable, row: Conduit): Promise<void> {
  const values = { ...row, firewallIds: [...row.firewallIds] };
  await tx.insert(conduits).values(values).onConflictDoUpdate({ target: conduits.id, set: values });
}

export async function removeConduit(tx: Queryable, id: string): Promise<boolean> {
  const gone = await tx.delete(conduits).where(eq(conduits.id, id)).returning({ id: conduits.id });
  return gone.length > 0;
}

export async function readServices(db: Queryable): Promise<readonly PlantService[]> {
  return db.select().from(plantServices).orderBy(asc(plantServices.name), asc(plantServices.id));
}

export async function putService(tx: Queryable, row: PlantService): Promise<void> {
  const values = { ...row, zoneIds: [...row.zoneIds] };
  await tx.insert(plantServices).values(values).onConflictDoUpdate({ target: plantServices.id, set: values });
}

export async function removeService(tx: Queryable, id: string): Promise<boolean> {
  const gone = await tx.delete(plantServices).where(eq(plantServices.id, id)).returning({ id: plantServices.id });
  return gone.length > 0;
}

/** The ids of all machines and zones. */
export async function idsOfPlaces(
  db: Queryable,
): Promise<{ readonly machines: ReadonlySet<string>; readonly zones: ReadonlySet<string> }> {
  const [machineRows, zoneRows] = await Promise.all([
    db.select({ id: machines.id }).from(machines),
    db.select({ id: zones.id }).from(zones),
  ]);
  return { machines: new Set(machineRows.map(({ id }) => id)), zones: new Set(zoneRows.map(({ id }) => id)) };
}

export interface NewRules {
  readonly firewallId: string;
  readonly takenBy: string;
  readonly file: string;
  readonly format: RuleSetFormat;
  readonly rules: number;
  readonly text: string;
  /** Absent: now. */
  readonly takenAt?: string;
}

export async function addRules(tx: Queryable, row: NewRules): Promise<number> {
  const [added] = await tx.insert(firewallRules).values(row).returning({ id: firewallRules.id });
  if (!added) throw new Error('the rules were not kept');
  const oldest = tx
    .select({ id: firewallRules.id })
    .from(firewallRules)
    .where(eq(firewallRules.firewallId, row.firewallId))
    .orderBy(desc(firewallRules.id))
    .offset(mostKept)
    .limit(1);
  await tx
    .delete(firewallRules)
    .where(and(eq(firewallRules.firewallId, row.firewallId), sql`${firewallRules.id} <= (${oldest})`));
  return added.id;
}

const { id, firewallId, takenAt, takenBy, file, format, rules } = firewallRules;
const about = { id, firewallId, takenAt, takenBy, file, format, rules };
export type AboutRules = KeptRules & { readonly firewallId: string };
const aboutOf = (row: AboutRules): AboutRules => ({ ...row, takenAt: new Date(row.takenAt).toISOString() });

/** The newest rules of each firewall, without their text. */
export async function newestRules(db: Queryable): Promise<readonly AboutRules[]> {
  const found = await db.selectDistinctOn([firewallId], about).from(firewallRules).orderBy(firewallId, desc(id));
  return found.map(aboutOf);
}

/** All that are kept of one firewall, newest first. */
export async function rulesOf(db: Queryable, of: string): Promise<readonly AboutRules[]> {
  const found = await db.select(about).from(firewallRules).where(eq(firewallId, of)).orderBy(desc(id));
  return found.map(aboutOf);
}

export async function textOfRules(db: Queryable, rulesId: number): Promise<string | null> {
  const [row] = await db.select({ text: firewallRules.text }).from(firewallRules).where(eq(id, rulesId));
  return row?.text ?? null;
}
