import { and, desc, eq, inArray, sql } from 'drizzle-orm';
import { readSettings, writtenSettings } from '@loyal-hinge/core';
import type { DcomSettings, ToldAccount } from '@loyal-hinge/core';
import type { DcomExport, DcomView } from '@loyal-hinge/contract';
import { alias } from 'drizzle-orm/pg-core';
import type { Queryable } from '../database/database.js';
import { applications, links, machineSettings, machines, zones } from '../database/schema.js';
import type { ReadMachine } from './read-files.js';

/** Exports of one machine that are kept; older ones go. */
const mostKept = 50;

export interface KeptExport {
  readonly about: DcomExport;
  readonly machineId: string;
  readonly settings: DcomSettings;
  readonly accounts: readonly ToldAccount[];
  readonly faults: DcomView['faults'];
}

type Row = typeof machineSettings.$inferSelect;
const keptOf = (row: Row): KeptExport => ({
  about: aboutOf(row),
  machineId: row.machineId,
  settings: readSettings(row.settings),
  accounts: row.accounts,
  faults: row.faults,
});
const aboutOf = ({ id, takenAt, takenBy, files }: Pick<Row, 'id' | 'takenAt' | 'takenBy' | 'files'>): DcomExport => ({
  id,
  takenAt: new Date(takenAt).toISOString(),
  takenBy,
  files,
});

export async function addExport(tx: Queryable, machineId: string, takenBy: string, read: ReadMachine): Promise<number> {
  const { accounts, files, faults } = read;
  const row = { machineId, takenBy, files, accounts, faults, settings: writtenSettings(read.settings) };
  const [added] = await tx.insert(machineSettings).values(row).returning({ id: machineSettings.id });
  if (!added) throw new Error('the export was not kept');
  const oldest = tx
    .select({ id: machineSettings.id })
    .from(machineSettings)
    .where(eq(machineSettings.machineId, machineId))
    .orderBy(desc(machineSettings.id))
    .offset(mostKept)
    .limit(1);
  await tx
    .delete(machineSettings)
    .where(and(eq(machineSettings.machineId, machineId), sql`${machineSettings.id} <= (${oldest})`));
  return added.id;
}

/** All exports of a machine, newest first, without what they say. */
export async function exportsOf(db: Queryable, machineId: string): Promise<readonly DcomExport[]> {
  const { id, takenAt, takenBy, files } = machineSettings;
  const rows = await db
    .select({ id, takenAt, takenBy, files })
    .from(machineSettings)
    .where(eq(machineSettings.machineId, machineId))
    .orderBy(desc(id));
  return rows.map(aboutOf);
}

export async function findExport(db: Queryable, machineId: string, id: number): Promise<KeptExport | null> {
  const [row] = await db
    .select()
    .from(machineSettings)
    .where(and(eq(machineSettings.machineId, machineId), eq(machineSettings.id, id)));
  return row ? keptOf(row) : null;
}

/** The newest export of a machine; null: there is none. */
export async function newestExport(db: Queryable, machineId: string): Promise<KeptExport | null> {
  const [row] = await db
    .select()
    .from(machineSettings)
    .where(eq(machineSettings.machineId, machineId))
    .orderBy(desc(machineSettings.id))
    .limit(1);
  return row ? keptOf(row) : null;
}

/** The newest export of each machine that has any. */
export async function newestExports(db: Queryable): Promise<readonly KeptExport[]> {
  const rows = await db
    .selectDistinctOn([machineSettings.machineId])
    .from(machineSettings)
    .orderBy(machineSettings.machineId, desc(machineSettings.id));
  return rows.map(keptOf);
}

/** A machine, with its zone. */
export interface PlacedMachine {
  readonly machineId: string;
  readonly machine: string;
  readonly zone: string;
}

/** Machines with classic applications, and those of which there are exports, by zone and name. */
export async function classicMachines(
  db: Queryable,
  withExports: readonly string[],
): Promise<readonly PlacedMachine[]> {
  const classic = db
    .select({ id: applications.machineId })
    .from(applications)
    .where(eq(applications.speaks, 'classic'));
  return db
    .select({ machineId: machines.id, machine: machines.name, zone: zones.name })
    .from(machines)
    .innerJoin(zones, eq(zones.id, machines.zoneId))
    .where(
      sql`${inArray(machines.id, classic)} or ${withExports.length > 0 ? inArray(machines.id, [...withExports]) : sql`false`}`,
    )
    .orderBy(zones.order, machines.name);
}

export async function placedMachine(db: Queryable, machineId: string): Promise<PlacedMachine | null> {
  const [row] = await db
    .select({ machineId: machines.id, machine: machines.name, zone: zones.name })
    .from(machines)
    .innerJoin(zones, eq(zones.id, machines.zoneId))
    .where(eq(machines.id, machineId));
  return row ?? null;
}

/** A classic server, and a link that needs it: by whom, and by which address. */
export interface NeededServer {
  readonly machineId: string;
  readonly server: string;
  readonly linkId: string | null;
  readonly link: string | null;
  readonly endpointUrl: string | null;
  readonly userName: string | null;
}

/** A client on a machine, and a server elsewhere that calls it back. */
export interface WatchingLink {
  readonly linkId: string;
  readonly link: string;
  readonly client: string;
  readonly endpointUrl: string;
  readonly serverMachineId: string;
  readonly userName: string | null;
}

/** Links of clients on a machine whose servers call back with changes. */
export async function watchingLinks(db: Queryable, machineId: string): Promise<readonly WatchingLink[]> {
  const servers = alias(applications, 'servers');
  const rows = await db
    .select({
      linkId: links.id,
      link: links.name,
      client: applications.name,
      endpointUrl: links.endpointUrl,
      serverMachineId: servers.machineId,
      identity: links.identity,
      needs: links.needs,
    })
    .from(links)
    .innerJoin(applications, eq(applications.id, links.clientId))
    .innerJoin(servers, eq(servers.id, links.serverId))
    .where(and(eq(links.kind, 'classic'), eq(applications.machineId, machineId)))
    .orderBy(applications.name, links.name);
  return rows
    .filter(({ needs }) => needs.some(({ uses }) => uses.includes('watch')))
    .map(({ identity, needs: _needs, ...row }) => ({
      ...row,
      userName: identity.kind === 'user' ? identity.userName : null,
    }));
}

/** Classic servers of some machines, or all, each with its links; one without links has a row of its own. */
export async function neededServers(db: Queryable, machineIds?: readonly string[]): Promise<readonly NeededServer[]> {
  const rows = await db
    .select({
      machineId: applications.machineId,
      server: applications.name,
      linkId: links.id,
      link: links.name,
      endpointUrl: links.endpointUrl,
      identity: links.identity,
    })
    .from(applications)
    .leftJoin(links, eq(links.serverId, applications.id))
    .where(
      and(
        eq(applications.kind, 'server'),
        eq(applications.speaks, 'classic'),
        machineIds && inArray(applications.machineId, [...machineIds]),
      ),
    )
    .orderBy(applications.name, links.name);
  return rows.map(({ identity, ...row }) => ({
    ...row,
    userName: identity?.kind === 'user' ? identity.userName : null,
  }));
}
