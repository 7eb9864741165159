import { sql } from 'drizzle-orm';
import type { Application, Link, Machine, Plant, Zone } from '@loyal-hinge/core';
import { copyIn } from '../database/copy-in.js';
import type { Copied } from '../database/copy-in.js';
import type { Queryable } from '../database/database.js';
import { writeSetting } from '../database/settings.js';
import { applicationRow, zoneRow } from './store.js';

/** A table of the plant: its columns, and a row of it. */
interface Part<Row> {
  readonly table: 'zones' | 'machines' | 'applications' | 'links';
  readonly columns: readonly string[];
  cells(row: Row): readonly Copied[];
}

const zones: Part<Zone> = {
  table: 'zones',
  columns: ['id', 'name', '"order"'],
  cells: (zone) => {
    const { id, name, order } = zoneRow(zone);
    return [id, name, order];
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
  columns: ['id', 'machine_id', 'kind', 'name', 'application_uri', 'ports', 'security_policies', 'security_modes'],
  cells: (application) => {
    const row = applicationRow(application);
    return [
      row.id,
      row.machineId,
      row.kind,
      row.name,
      row.applicationUri,
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
  ],
};

/** A plant with fewer rows is there before anybody could read how far it is. */
const toldFrom = 5000;

/** Rows that were written, of how many. */
export type Progress = (done: number, total: number) => Promise<void>;

/**
 * Makes the plant what it is given as; to be called in a transaction. What stays is left as it is, and with it what was found
 * of it: only what differs is written.
 */
export async function replacePlant(
  tx: Queryable,
  plant: Plant,
  tell: Progress = () => Promise.resolve(),
): Promise<void> {
  const total = plant.zones.length + plant.machines.length + plant.applications.length + plant.links.length;
  let done = 0;
  const merged = async <Row>(part: Part<Row>, rows: readonly Row[]): Promise<void> => {
    await merge(tx, part, rows);
    done += rows.length;
    if (total >= toldFrom) await tell(done, total);
  };
  await writeSetting(tx, 'plantName', plant.name);
  await merged(zones, plant.zones);
  await merged(machines, plant.machines);
  await merged(applications, plant.applications);
  await merged(links, plant.links);
  for (const { table } of [links, applications, machines, zones])
    await tx.execute(
      sql.raw(`delete from ${table} where not exists (select 1 from incoming_${table} i where i.id = ${table}.id)`),
    );
}

/** Copies rows to a table of this transaction alone, and from there what is new or differs. */
async function merge<Row>(tx: Queryable, { table, columns, cells }: Part<Row>, rows: readonly Row[]): Promise<void> {
  await tx.execute(sql.raw(`create temp table incoming_${table} (like ${table}) on commit drop`));
  await copyIn(tx, `incoming_${table}`, columns, mapped(rows, cells));
  const values = columns.filter((column) => column !== 'id');
  const of = (name: string): string => values.map((column) => `${name}.${column}`).join(', ');
  await tx.execute(
    sql.raw(`insert into ${table} as kept (${columns.join(', ')}) select ${columns.join(', ')} from incoming_${table}
      on conflict (id) do update set (${values.join(', ')}) = row(${of('excluded')})
      where (${of('kept')}) is distinct from (${of('excluded')})`),
  );
}

function* mapped<Row>(rows: readonly Row[], cells: (row: Row) => readonly Copied[]): Generator<readonly Copied[]> {
  for (const row of rows) yield cells(row);
}
