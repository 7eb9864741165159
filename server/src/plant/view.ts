import type { LinkKindId } from '@loyal-hinge/core';
import { and, asc, count, desc, eq, sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import type { plantOrders, AnswerOf, Choosable, PlantPage, PlantPartName, PlantChoices } from '@loyal-hinge/contract';
import type { Queryable } from '../database/database.js';
import { hasWords } from '../database/has-words.js';
import { applications, links, machines, userCertificates, zones } from '../database/schema.js';
import { plantNameOf } from '../database/settings.js';
import { readAround } from './part.js';
import { searched } from './searched.js';

const usualRows = 200;
const mostChoices = 200;

const tables = { zones, machines, applications, links } as const;

const nameOfZone = sql`(select z.name from zones z where z.id = ${machines.zoneId})`;
const nameOfMachine = sql`(select m.name from machines m where m.id = ${applications.machineId})`;
const machinesOfZone = sql`(select count(*) from machines m where m.zone_id = ${zones.id})`;

/** What rows are sorted by. */
const sorted: { readonly [Part in PlantPartName]: Readonly<Record<(typeof plantOrders)[Part][number], SQL>> } = {
  zones: { order: sql`${zones.order}`, name: sql`lower(${zones.name})`, machines: machinesOfZone },
  machines: {
    name: sql`lower(${machines.name})`,
    zone: sql`lower(${nameOfZone})`,
    hostNames: sql`host_names_text(${machines.hostNames})`,
    addresses: sql`host_names_text(${machines.addresses})`,
    description: sql`lower(${machines.description})`,
  },
  applications: {
    name: sql`lower(${applications.name})`,
    kind: sql`${applications.kind}`,
    machine: sql`lower(${nameOfMachine})`,
    uri: sql`${applications.applicationUri}`,
    more: sql`concat_ws(' ', ${applications.ports}::text, ${applications.securityPolicies}::text)`,
  },
  links: {
    name: sql`lower(${links.name})`,
    url: sql`${links.endpointUrl}`,
    identity: sql`coalesce(${links.identity}->>'userName', ${links.identity}->>'certificate', '')`,
    floor: sql`${links.floor}`,
    needs: sql`${links.needs}::text`,
  },
};

/** As it is wished, or the usual order; rows of equal rank always in the same order. */
function orderOf({ part, by, descending }: Pick<PlantPage, 'part' | 'by' | 'descending'>): SQL[] {
  const table = tables[part];
  const orders: Readonly<Record<string, SQL>> = sorted[part];
  const wished = by === undefined ? undefined : orders[by];
  if (wished) return [descending === 'yes' ? desc(wished) : asc(wished), asc(table.id)];
  return part === 'zones' ? [asc(zones.order), asc(zones.id)] : [asc(table.name), asc(table.id)];
}

/** Some rows of a part of the plant, with whatever they stand on. */
export async function plantViewOf(
  db: Queryable,
  { part, find = '', from = 0, most = usualRows, by, descending }: PlantPage,
): Promise<AnswerOf<'plantView'>> {
  const table = tables[part];
  const fits = hasWords(searched[part], find);
  const [name, counts, fitting, rows, machinesIn] = await Promise.all([
    plantNameOf(db),
    countsOf(db),
    db.select({ rows: count() }).from(table).where(fits),
    db
      .select({ id: table.id })
      .from(table)
      .where(fits)
      .orderBy(...orderOf({ part, by, descending }))
      .offset(from)
      .limit(most),
    db.select({ id: machines.zoneId, machines: count() }).from(machines).groupBy(machines.zoneId),
  ]);
  const ids = rows.map(({ id }) => id);
  const around = await readAround(db, {
    machineIds: part === 'machines' ? ids : [],
    applicationIds: part === 'applications' ? ids : [],
    linkIds: part === 'links' ? ids : [],
  });
  return {
    name,
    counts,
    fitting: fitting[0]?.rows ?? 0,
    from,
    ids,
    machinesIn: Object.fromEntries(machinesIn.map((zone) => [zone.id, zone.machines])),
    ...(around as Pick<AnswerOf<'plantView'>, PlantPartName>),
  };
}

async function countsOf(db: Queryable): Promise<AnswerOf<'plantView'>['counts']> {
  const { rows } = await db.execute<AnswerOf<'plantView'>['counts']>(sql`select
    (select count(*)::int from zones) as zones, (select count(*)::int from machines) as machines,
    (select count(*)::int from applications) as applications, (select count(*)::int from links) as links`);
  return rows[0] ?? { zones: 0, machines: 0, applications: 0, links: 0 };
}

/** What a row can be put on, or lead to: the first by name that fit. */
export async function choicesOf(db: Queryable, of: Choosable, find = '', speaks?: LinkKindId): Promise<PlantChoices> {
  if (of === 'machines') {
    const fits = hasWords(searched.machines, find);
    const [[fitting], rows] = await Promise.all([
      db.select({ rows: count() }).from(machines).where(fits),
      db.select().from(machines).where(fits).orderBy(asc(machines.name)).limit(mostChoices),
    ]);
    return { fitting: fitting?.rows ?? 0, choices: rows.map(({ id, name }) => ({ id, name, port: null })) };
  }
  if (of === 'userCertificates') {
    const names = sql<string>`name`;
    const from = sql`(select ${userCertificates.name} as name from ${userCertificates} union
      select ${links.identity}->>'certificate' from ${links} where ${links.identity}->>'kind' = 'certificate') named`;
    const fits = hasWords(sql`lower(name)`, find);
    const [[fitting], rows] = await Promise.all([
      db.select({ rows: count() }).from(from).where(fits),
      db.select({ name: names }).from(from).where(fits).orderBy(asc(names)).limit(mostChoices),
    ]);
    return { fitting: fitting?.rows ?? 0, choices: rows.map(({ name }) => ({ id: name, name, port: null })) };
  }
  const fits = and(
    eq(applications.kind, of === 'clients' ? 'client' : 'server'),
    speaks && eq(applications.speaks, speaks),
    hasWords(searched.applications, find),
  );
  const [[fitting], rows] = await Promise.all([
    db.select({ rows: count() }).from(applications).where(fits),
    db.select().from(applications).where(fits).orderBy(asc(applications.name)).limit(mostChoices),
  ]);
  return {
    fitting: fitting?.rows ?? 0,
    choices: rows.map(({ id, name, ports }) => ({ id, name, port: ports[0] ?? null })),
  };
}
