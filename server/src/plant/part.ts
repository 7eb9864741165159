import { and, arrayOverlaps, asc, eq, inArray, or, sql } from 'drizzle-orm';
import { endpointUrlParts, isAddressLiteral, isPlantFault, linkInPlant } from '@loyal-hinge/core';
import type { Application, Link, LinkInPlant, Machine, Plant, PlantFault } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import { ofThese } from '../database/of-these.js';
import { applications, links, machines, zones } from '../database/schema.js';
import { applicationOf } from './store.js';

/** What a part of the plant is to hold; whatever that stands on belongs to it, too. */
export interface Around {
  readonly linkIds?: readonly string[];
  readonly applicationIds?: readonly string[];
  readonly machineIds?: readonly string[];
}

/** A part of the plant, read by ids: the links that were asked for, their ends, the machines of these and all zones. */
export async function readAround(db: Queryable, around: Around): Promise<Omit<Plant, 'name'>> {
  const linkRows = await someOf(around.linkIds, (ids) =>
    db.select().from(links).where(inArray(links.id, ids)).orderBy(asc(links.name)),
  );
  const ends = linkRows.flatMap(({ clientId, serverId }) => [clientId, serverId]);
  const applicationRows = await someOf([...(around.applicationIds ?? []), ...ends], (ids) =>
    db.select().from(applications).where(inArray(applications.id, ids)).orderBy(asc(applications.name)),
  );
  const under = applicationRows.map(({ machineId }) => machineId);
  const [machineRows, zoneRows] = await Promise.all([
    someOf([...(around.machineIds ?? []), ...under], (ids) =>
      db.select().from(machines).where(inArray(machines.id, ids)).orderBy(asc(machines.name)),
    ),
    db.select().from(zones).orderBy(asc(zones.order), asc(zones.id)),
  ]);
  return { zones: zoneRows, machines: machineRows, applications: applicationRows.map(applicationOf), links: linkRows };
}

const someOf = <Row>(ids: readonly string[] | undefined, read: (ids: string[]) => Promise<Row[]>): Promise<Row[]> =>
  ids === undefined || ids.length === 0 ? Promise.resolve([]) : read([...new Set(ids)]);

/**
 * A link with its ends, or what is missing. Of the other machines those that may serve as a hint: what has a host name that
 * is written like the one of the URL, or one of some addresses.
 */
export async function subjectAround(
  db: Queryable,
  linkId: string,
  addresses: readonly string[] = [],
): Promise<LinkInPlant | PlantFault> {
  const subject = linkInPlant({ name: '', ...(await readAround(db, { linkIds: [linkId] })) }, linkId);
  return isPlantFault(subject) ? subject : withHints(db, subject, addresses);
}

/** The same for a link that the plant has not, such as the way to a server’s push management. */
export async function subjectOf(db: Queryable, link: Link): Promise<LinkInPlant | PlantFault> {
  const part = await readAround(db, { applicationIds: [link.clientId, link.serverId] });
  const subject = linkInPlant({ name: '', ...part, links: [link] }, link.id);
  return isPlantFault(subject) ? subject : withHints(db, subject, []);
}

const mostHints = 30;

async function withHints(db: Queryable, subject: LinkInPlant, addresses: readonly string[]): Promise<LinkInPlant> {
  const host = labelOf(subject.link.endpointUrl);
  const names = sql`host_names_text(${machines.hostNames})`;
  const alike = host === '' ? undefined : sql`${host} <% ${names}`;
  const has = addresses.length === 0 ? undefined : arrayOverlaps(machines.addresses, [...addresses]);
  const found =
    alike || has
      ? await db
          .select()
          .from(machines)
          .where(or(alike, has))
          .orderBy(sql`${host} <<-> ${names}`)
          .limit(mostHints)
      : [];
  const own = new Map([subject.clientMachine, subject.serverMachine].map((machine) => [machine.id, machine]));
  const hints = found.filter(({ id }) => !own.has(id));
  return { ...subject, machines: [...own.values(), ...hints] };
}

/** The first label of a URL’s host: the others are those of all machines. Empty for an address. */
function labelOf(endpointUrl: string): string {
  const host = endpointUrlParts(endpointUrl)?.host ?? '';
  return isAddressLiteral(host) ? '' : (host.toLowerCase().split('.')[0] ?? '');
}

export async function findApplication(db: Queryable, id: string): Promise<Application | null> {
  const [row] = await db.select().from(applications).where(eq(applications.id, id));
  return row ? applicationOf(row) : null;
}

/** The applications that have one of some URIs. */
export async function applicationsWith(db: Queryable, uris: readonly string[]): Promise<readonly Application[]> {
  const rows = await someOf(uris, (wanted) =>
    db.select().from(applications).where(inArray(applications.applicationUri, wanted)),
  );
  return rows.map(applicationOf);
}

/** Names of applications by their ids. */
export async function namesOf(db: Queryable, ids: readonly string[]): Promise<ReadonlyMap<string, string>> {
  const rows = await someOf(ids, (wanted) =>
    db
      .select({ id: applications.id, name: applications.name })
      .from(applications)
      .where(inArray(applications.id, wanted)),
  );
  return new Map(rows.map(({ id, name }) => [id, name]));
}

export async function findMachine(db: Queryable, id: string): Promise<Machine | null> {
  const [row] = await db.select().from(machines).where(eq(machines.id, id));
  return row ?? null;
}

/** Some applications that speak OPC UA, or all of the plant: others have no certificates. */
export async function readUaApplications(db: Queryable, ids?: readonly string[]): Promise<readonly Application[]> {
  const rows = await db
    .select()
    .from(applications)
    .where(and(eq(applications.speaks, 'ua'), ofThese(applications.id, ids)))
    .orderBy(asc(applications.name));
  return rows.map(applicationOf);
}

/** Which applications some links of OPC UA, or all, join, and by which URL. */
export const readUaLinkEnds = (db: Queryable, ids?: readonly string[]) =>
  db
    .select({
      id: links.id,
      kind: links.kind,
      name: links.name,
      clientId: links.clientId,
      serverId: links.serverId,
      endpointUrl: links.endpointUrl,
    })
    .from(links)
    .where(and(eq(links.kind, 'ua'), ofThese(links.id, ids)))
    .orderBy(asc(links.name));
