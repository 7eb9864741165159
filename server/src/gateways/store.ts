import { asc, eq, inArray, lt, or, sql } from 'drizzle-orm';
import { linkInPlant } from '@loyal-hinge/core';
import type { ClientApplication, LinkInPlant, Machine, ServerApplication } from '@loyal-hinge/core';
import type { GatewayItemsWish, PlaceOfGateway, RelayOfGateway, RelayWish } from '@loyal-hinge/contract';
import type { GatewayItems } from '@loyal-hinge/contract/line';
import type { Queryable } from '../database/database.js';
import { gatewayAsks, gatewayRelays, gateways, links, outposts } from '../database/schema.js';
import { outpostsBy } from '../outposts/store.js';
import type { OutpostRow } from '../outposts/store.js';
import { readAround } from '../plant/part.js';

/** A gateway as a client and a server of classic OPC. */
export interface ClassicPart {
  readonly client: ClientApplication;
  readonly server: ServerApplication;
  readonly mapperPort: number;
  readonly clsid: string;
}

/** A gateway with all that the plant says of it. */
export interface KnownGateway {
  readonly outpost: OutpostRow;
  readonly machine: Machine;
  readonly client: ClientApplication;
  readonly server: ServerApplication;
  readonly address: string;
  readonly port: number;
  /** What it is for classic OPC; null: it speaks none. */
  readonly classic: ClassicPart | null;
  readonly places: readonly PlaceOfGateway[];
  readonly relays: readonly RelayOfGateway[];
  /** Links by which it reads. */
  readonly sources: readonly LinkInPlant[];
  /** Links by which others read from it. */
  readonly readers: readonly LinkInPlant[];
}

/** Gateways by their names. @param id one of them; left out: all */
export async function knownGateways(db: Queryable, id?: string): Promise<readonly KnownGateway[]> {
  const rows = await db
    .select()
    .from(gateways)
    .where(id === undefined ? undefined : eq(gateways.outpostId, id));
  if (rows.length === 0) return [];
  const ids = rows.map(({ outpostId }) => outpostId);
  const ends = rows.flatMap(endsOf);
  const [found, relays, linkRows] = await Promise.all([
    outpostsBy(db, ids),
    db.select().from(gatewayRelays).where(inArray(gatewayRelays.gatewayId, ids)).orderBy(asc(gatewayRelays.id)),
    db
      .select({ id: links.id })
      .from(links)
      .where(or(inArray(links.clientId, ends), inArray(links.serverId, ends))),
  ]);
  const part = {
    name: '',
    ...(await readAround(db, {
      linkIds: linkRows.map((row) => row.id),
      applicationIds: ends,
      machineIds: found.map(({ machineId }) => machineId),
    })),
  };
  const subjects = part.links.flatMap((link) => {
    const subject = linkInPlant(part, link.id);
    return 'link' in subject ? [subject] : [];
  });
  return rows
    .flatMap((row): KnownGateway[] => {
      const { outpostId, clientId, serverId, classicClientId, classicServerId, mapperPort, clsid } = row;
      const applicationOf = (wanted: string | null) => part.applications.find((each) => each.id === wanted);
      const outpost = found.find((each) => each.id === outpostId);
      const machine = part.machines.find((each) => each.id === outpost?.machineId);
      const client = applicationOf(clientId);
      const server = applicationOf(serverId);
      const [classicClient, classicServer] = [applicationOf(classicClientId), applicationOf(classicServerId)];
      if (!outpost || !machine || client?.kind !== 'client' || server?.kind !== 'server') return [];
      return [
        {
          outpost,
          machine,
          client,
          server,
          address: row.address,
          port: row.port,
          places: row.places,
          classic:
            classicClient?.kind === 'client' &&
            classicServer?.kind === 'server' &&
            mapperPort !== null &&
            clsid !== null
              ? { client: classicClient, server: classicServer, mapperPort, clsid }
              : null,
          relays: relays
            .filter(({ gatewayId }) => gatewayId === outpostId)
            .map(({ id: relayId, relay }) => ({ id: relayId, ...relay })),
          sources: subjects.filter(({ link }) => [clientId, classicClientId].includes(link.clientId)),
          readers: subjects.filter(({ link }) => [serverId, classicServerId].includes(link.serverId)),
        },
      ];
    })
    .sort((one, other) => one.outpost.name.localeCompare(other.outpost.name));
}

/** The server that a client of a gateway is, too; null: it is no gateway’s. */
export async function faceOf(db: Queryable, clientId: string): Promise<string | null> {
  const [row] = await db.select({ id: gateways.serverId }).from(gateways).where(eq(gateways.clientId, clientId));
  return row?.id ?? null;
}

/** The gateways that an application is part of, or that a link begins or ends at. */
export async function gatewaysOf(db: Queryable, subjectId: string): Promise<readonly string[]> {
  const ends = db
    .select({ id: links.clientId })
    .from(links)
    .where(eq(links.id, subjectId))
    .union(db.select({ id: links.serverId }).from(links).where(eq(links.id, subjectId)));
  const rows = await db
    .select({ id: gateways.outpostId })
    .from(gateways)
    .where(
      or(
        eq(gateways.clientId, subjectId),
        eq(gateways.serverId, subjectId),
        inArray(gateways.clientId, ends),
        inArray(gateways.serverId, ends),
        inArray(gateways.classicClientId, ends),
        inArray(gateways.classicServerId, ends),
      ),
    );
  return rows.map(({ id }) => id);
}

export interface GatewayPut {
  readonly id: string;
  readonly name: string;
  readonly machineId: string;
  readonly clientId: string;
  readonly serverId: string;
  readonly address: string;
  readonly port: number;
  readonly classicClientId: string | null;
  readonly classicServerId: string | null;
  readonly mapperPort: number | null;
  readonly clsid: string | null;
}

const endsOf = (row: Pick<GatewayPut, 'clientId' | 'serverId' | 'classicClientId' | 'classicServerId'>): string[] =>
  [row.clientId, row.serverId, row.classicClientId, row.classicServerId].filter((id) => id !== null);

export async function putGateway(tx: Queryable, { id, name, machineId, ...rest }: GatewayPut): Promise<void> {
  await tx
    .insert(outposts)
    .values({ id, kind: 'gateway', name, machineId })
    .onConflictDoUpdate({ target: outposts.id, set: { name, machineId } });
  const row = { outpostId: id, ...rest };
  await tx.insert(gateways).values(row).onConflictDoUpdate({ target: gateways.outpostId, set: row });
}

export async function removeGateway(tx: Queryable, id: string): Promise<void> {
  await tx.delete(outposts).where(eq(outposts.id, id));
}

export async function setPlaces(tx: Queryable, id: string, places: readonly PlaceOfGateway[]): Promise<void> {
  await tx.update(gateways).set({ places }).where(eq(gateways.outpostId, id));
}

export async function putRelay(tx: Queryable, gatewayId: string, id: string, relay: RelayWish): Promise<void> {
  await tx
    .insert(gatewayRelays)
    .values({ gatewayId, id, relay })
    .onConflictDoUpdate({ target: [gatewayRelays.gatewayId, gatewayRelays.id], set: { relay } });
}

export async function removeRelay(tx: Queryable, gatewayId: string, id: string): Promise<void> {
  await tx.delete(gatewayRelays).where(sql`${gatewayRelays.gatewayId} = ${gatewayId} and ${gatewayRelays.id} = ${id}`);
}

export async function noteAsk(tx: Queryable, id: string, gatewayId: string, wish: GatewayItemsWish): Promise<void> {
  await tx.delete(gatewayAsks).where(lt(gatewayAsks.at, sql`now() - interval '1 minute'`));
  await tx.insert(gatewayAsks).values({ id, gatewayId, wish });
}

export async function findAsk(db: Queryable, id: string) {
  const [row] = await db.select().from(gatewayAsks).where(eq(gatewayAsks.id, id));
  return row ?? null;
}

/** Answers what was asked of this very gateway. */
export async function answerAsk(db: Queryable, id: string, gatewayId: string, answer: GatewayItems): Promise<void> {
  await db
    .update(gatewayAsks)
    .set({ answer })
    .where(sql`${gatewayAsks.id} = ${id} and ${gatewayAsks.gatewayId} = ${gatewayId}`);
}
