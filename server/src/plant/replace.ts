import { sql } from 'drizzle-orm';
import type { Application, Link, Machine, Zone } from '@loyal-hinge/core';
import type { PlantPartName } from '@loyal-hinge/contract';
import { copyIn } from '../database/copy-in.js';
import type { Copied } from '../database/copy-in.js';
import type { Queryable } from '../database/database.js';
import { writeSetting } from '../database/settings.js';
import type { IncomingPlant } from './incoming.js';
import { applicationRow, zoneRow } from './store.js';

/** A table of the plant: its columns, and a row of it. */
interface Part<Row> {
  readonly table: PlantPartName;
  readonly columns: readonly string[];
  cells(row: Row): readonly Copied[];
}

const zones: Part<Zone> = {
  table: 'zones',
  columns: ['id', 'name', '"order"', 'target_level'],
  cells: (zone) => {
    const { id, name, order, targetLevel } = zoneRow(zone);
    return [id, name, order, targetLevel];
  },
};

const machines: Part<Machine> = {
  table: 'machines',
  columns: ['id', 'zone_id', 'name', 'description', 'host_names', 'addresses'],
  cells: ({ id, zoneId, name, description, hostNames, addresses }) => [
    id,
    zoneId,
    name,
    description,
    hostNames,
    addresses,
  ],
};

const applications: Part<Application> = {
  table: 'applications',
  columns: [
    'id',
    'machine_id',
    'kind',
    'name',
    'application_uri',
    'speaks',
    'ports',
    'security_policies',
    'security_modes',
  ],
  cells: (application) => {
    const row = applicationRow(application);
    return [
      row.id,
      row.machineId,
      row.kind,
      row.name,
      row.applicationUri,
      row.speaks ?? 'ua',
      row.ports,
      row.securityPolicies,
      row.securityModes,
    ];
  },
};

const links: Part<Link> = {
  table: 'links',
  columns: [
    'id',
    'kind',
    'name',
    'client_id',
    'server_id',
    'endpoint_url',
    'pinned_address',
    'chosen_endpoint',
    'needs',
    'identity',
    'floor',
    'stale_after_ms',
    'classic',
  ],
  cells: (link) => [
    link.id,
    link.kind,
    link.name,
    link.clientId,
    link.serverId,
    link.endpointUrl,
    link.pinnedAddress,
    link.chosenEndpoint && { json: link.chosenEndpoint },
    { json: link.needs },
    { json: link.identity },
    link.floor,
    link.staleAfterMs,
    link.classic ? { json: link.classic } : null,
  ],
};

/** A plant with fewer rows is there before anybody could read how far it is. */
const toldFrom = 5000;

/** How many rows were read or written, of how many. */
export type Progress = (doing: 'reading' | 'writing', done: number, total: number) => Promise<void>;

const inOrder = [zones, machines, applications, links] as const;

/**
 * Copies the rows to tables of this transaction alone: nobody else sees or waits for anything yet.
 * @throws ProblemError where rows can’t be taken
 */
export async function takeIn(tx: Queryable, plant: IncomingPlant, tell: Progress = untold): Promise<void> {
  const told = countedFor(plant, 'reading', tell);
  const take = async <Row>({ table, columns, cells }: Part<Row>, rows: Iterable<Row>): Promise<void> => {
    await tx.execute(sql.raw(`create temp table incoming_${table} (like ${table}) on commit drop`));
    await copyIn(tx, `incoming_${table}`, columns, mapped(rows, cells));
    await told(table);
  };
  await take(zones, plant.zones);
  await take(machines, plant.machines);
  await take(applications, plant.applications);
  await take(links, plant.links);
  plant.refuse();
}

/**
 * Makes the plant what was taken in before, in the same transaction. What stays is left as it is, and with it what was found of
 * it: only what is new or differs is written.
 */
export async function replacePlant(tx: Queryable, plant: IncomingPlant, tell: Progress = untold): Promise<void> {
  const told = countedFor(plant, 'writing', tell);
  await writeSetting(tx, 'plantName', plant.name);
  for (const { table, columns } of inOrder) {
    const values = columns.filter((column) => column !== 'id');
    const of = (name: string): string => values.map((column) => `${name}.${column}`).join(', ');
    await tx.execute(
      sql.raw(`insert into ${table} as kept (${columns.join(', ')}) select ${columns.join(', ')} from incoming_${table}
        on conflict (id) do update set (${values.join(', ')}) = row(${of('excluded')})
        where (${of('kept')}) is distinct from (${of('excluded')})`),
    );
    await told(table);
  }
  for (const { table } of [...inOrder].reverse())
    await tx.execute(
      sql.raw(`delete from ${table} where not exists (select 1 from incoming_${table} i where i.id = ${table}.id)`),
    );
}

const untold: Progress = () => Promise.resolve();

function countedFor(
  { sizes }: IncomingPlant,
  doing: 'reading' | 'writing',
  tell: Progress,
): (part: PlantPartName) => Promise<void> {
  const total = Object.values(sizes).reduce((sum, size) => sum + size, 0);
  let done = 0;
  return async (part) => {
    done += sizes[part];
    if (total >= toldFrom) await tell(doing, done, total);
  };
}

function* mapped<Row>(rows: Iterable<Row>, cells: (row: Row) => readonly Copied[]): Generator<readonly Copied[]> {
  for (const row of rows) yield cells(row);
}
