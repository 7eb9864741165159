import { asc, eq, inArray, or } from 'drizzle-orm';
import type { Application, Link, Machine, Plant, Zone } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import { ofThese } from '../database/of-these.js';
import { plantNameOf } from '../database/settings.js';
import { applications, links, machines, zones } from '../database/schema.js';

type ApplicationRow = typeof applications.$inferSelect;

/**
 * The plant; with `linkIds`, of its links those alone. All links of a large plant are read by workers: the thread that
 * answers everybody would stand still for it.
 */
export async function readPlant(db: Queryable, linkIds?: readonly string[]): Promise<Plant> {
  const [name, zoneRows, machineRows, applicationRows, linkRows] = await Promise.all([
    plantNameOf(db),
    db.select().from(zones).orderBy(asc(zones.order), asc(zones.id)),
    db.select().from(machines).orderBy(asc(machines.name)),
    db.select().from(applications).orderBy(asc(applications.name)),
    db
      .select()
      .from(links)
      .where(linkIds && inArray(links.id, [...linkIds]))
      .orderBy(asc(links.name)),
  ]);
  return {
    name,
    zones: zoneRows,
    machines: machineRows,
    applications: applicationRows.map(applicationOf),
    links: linkRows,
  };
}

/** The ids of all links, or of those at whose end an application stands; by name. */
export async function linkIdsIn(db: Queryable, applicationId?: string): Promise<string[]> {
  const atEnd =
    applicationId === undefined ? undefined : or(eq(links.clientId, applicationId), eq(links.serverId, applicationId));
  const rows = await db.select({ id: links.id }).from(links).where(atEnd).orderBy(asc(links.name));
  return rows.map(({ id }) => id);
}

/** Those of some ids that links have, by the name of their link. */
export async function linksThere(db: Queryable, linkIds: readonly string[]): Promise<string[]> {
  const rows = await db.select({ id: links.id }).from(links).where(ofThese(links.id, linkIds)).orderBy(asc(links.name));
  return rows.map(({ id }) => id);
}

export async function putZone(tx: Queryable, zone: Zone): Promise<void> {
  const row = zoneRow(zone);
  await tx.insert(zones).values(row).onConflictDoUpdate({ target: zones.id, set: row });
}

export async function putMachine(tx: Queryable, machine: Machine): Promise<void> {
  const row = machineRow(machine);
  await tx.insert(machines).values(row).onConflictDoUpdate({ target: machines.id, set: row });
}

export async function putApplication(tx: Queryable, application: Application): Promise<void> {
  const row = applicationRow(application);
  await tx.insert(applications).values(row).onConflictDoUpdate({ target: applications.id, set: row });
}

export async function putLink(tx: Queryable, link: Link): Promise<void> {
  const row = linkRow(link);
  await tx.insert(links).values(row).onConflictDoUpdate({ target: links.id, set: row });
}

export type PlantPart = 'zones' | 'machines' | 'applications' | 'links';
const tables = { zones, machines, applications, links };

/** True where there was something to remove. A row that others stand on makes PostgreSQL refuse. */
export async function removePart(tx: Queryable, part: PlantPart, id: string): Promise<boolean> {
  const table = tables[part];
  const removed = await tx.delete(table).where(eq(table.id, id)).returning({ id: table.id });
  return removed.length > 0;
}

export const zoneRow = ({ id, name, order, targetLevel = null }: Zone) => ({ id, name, order, targetLevel });

export const machineRow = (machine: Machine): typeof machines.$inferInsert => ({
  ...machine,
  hostNames: [...machine.hostNames],
  addresses: [...machine.addresses],
});

export function applicationRow(application: Application): typeof applications.$inferInsert {
  const { id, machineId, kind, name, applicationUri, speaks = 'ua' } = application;
  const own = { id, machineId, kind, name, applicationUri, speaks };
  return application.kind === 'server'
    ? { ...own, ports: [...application.ports], securityPolicies: [], securityModes: [] }
    : {
        ...own,
        ports: [],
        securityPolicies: [...application.securityPolicies],
        securityModes: [...application.securityModes],
      };
}

export function applicationOf({
  id,
  machineId,
  kind,
  name,
  applicationUri,
  speaks,
  ports,
  securityPolicies,
  securityModes,
}: ApplicationRow): Application {
  const own = { id, machineId, name, applicationUri, ...(speaks === 'ua' ? {} : { speaks }) };
  return kind === 'server' ? { kind, ...own, ports } : { kind, ...own, securityPolicies, securityModes };
}

export const linkRow = (link: Link): typeof links.$inferInsert => ({ ...link });
