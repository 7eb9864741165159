import { asc, eq, inArray, or } from 'drizzle-orm';
import type { Application, Link, Machine, Plant, Zone } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import { applications, links, machines, settings, zones } from '../database/schema.js';

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

/** Replaces everything; to be called in a transaction. */
export async function writePlant(tx: Queryable, plant: Plant): Promise<void> {
  await tx.delete(links);
  await tx.delete(applications);
  await tx.delete(machines);
  await tx.delete(zones);
  await writeSetting(tx, 'plantName', plant.name);
  await inChunks(plant.zones, (rows) => tx.insert(zones).values(rows.map(zoneRow)));
  await inChunks(plant.machines, (rows) => tx.insert(machines).values(rows.map(machineRow)));
  await inChunks(plant.applications, (rows) => tx.insert(applications).values(rows.map(applicationRow)));
  await inChunks(plant.links, (rows) => tx.insert(links).values(rows.map(linkRow)));
}

async function inChunks<Row>(rows: readonly Row[], write: (rows: readonly Row[]) => Promise<unknown>): Promise<void> {
  for (let start = 0; start < rows.length; start += 1000) await write(rows.slice(start, start + 1000));
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

/** What the plant is called; “Plant” where nobody has said so yet. */
export async function plantNameOf(db: Queryable): Promise<string> {
  const name = await readSetting(db, 'plantName');
  return typeof name === 'string' ? name : 'Plant';
}

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

const zoneRow = ({ id, name, order }: Zone): typeof zones.$inferInsert => ({ id, name, order });

const machineRow = (machine: Machine): typeof machines.$inferInsert => ({
  ...machine,
  hostNames: [...machine.hostNames],
  addresses: [...machine.addresses],
});

function applicationRow(application: Application): typeof applications.$inferInsert {
  const { id, machineId, kind, name, applicationUri } = application;
  const own = { id, machineId, kind, name, applicationUri };
  return application.kind === 'server'
    ? { ...own, ports: [...application.ports], securityPolicies: [], securityModes: [] }
    : {
        ...own,
        ports: [],
        securityPolicies: [...application.securityPolicies],
        securityModes: [...application.securityModes],
      };
}

function applicationOf({
  id,
  machineId,
  kind,
  name,
  applicationUri,
  ports,
  securityPolicies,
  securityModes,
}: ApplicationRow): Application {
  const own = { id, machineId, name, applicationUri };
  return kind === 'server' ? { kind, ...own, ports } : { kind, ...own, securityPolicies, securityModes };
}

const linkRow = (link: Link): typeof links.$inferInsert => ({ ...link });
