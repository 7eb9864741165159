import { and, asc, eq } from 'drizzle-orm';
import { alias } from 'drizzle-orm/pg-core';
import { floorFor } from '@loyal-hinge/core';
import type { EntryFloor, LinkAtDoors, ServerDoors } from '@loyal-hinge/core';
import type { Database } from '../database/database.js';
import { ofThese } from '../database/of-these.js';
import { applications, links, machines, zones } from '../database/schema.js';
import { knownEndpoints } from '../facts/endpoints.js';
import { exceptionsInForce, plantFloorOf } from './floor/store.js';

/** A server with its doors and links, and where it stands. */
export interface PlacedServer extends ServerDoors {
  readonly machine: string;
  readonly zone: string;
  /** null: no check has seen its endpoints yet. */
  readonly seenAt: string | null;
}

/** All that the doors of the plant are judged by. */
export interface PlantDoors {
  readonly servers: readonly PlacedServer[];
  readonly floor: EntryFloor;
}

/** Servers of the plant in the order of their zones, with what they were seen to offer and the links that go there: some, or all. */
export async function plantDoors(db: Database, serverIds?: readonly string[]): Promise<PlantDoors> {
  const [servers, wanted, seen, floor, exceptions] = await Promise.all([
    serverRows(db, serverIds),
    linkRows(db, serverIds),
    knownEndpoints(db, serverIds),
    plantFloorOf(db),
    exceptionsInForce(db),
  ]);
  const at = new Date().toISOString();
  const byServer = new Map<string, LinkAtDoors[]>();
  for (const { id, name, serverId, client, link } of wanted) {
    const own = byServer.get(serverId) ?? [];
    own.push({ id, name, client, link, floor: floorFor({ linkId: id, serverId }, floor, exceptions, at).floor });
    byServer.set(serverId, own);
  }
  return {
    floor,
    servers: servers.map((server) => {
      const known = seen.get(server.id);
      const own = byServer.get(server.id) ?? [];
      return { ...server, seenAt: known?.seenAt ?? null, endpoints: known?.endpoints ?? [], links: own };
    }),
  };
}

const serverRows = (db: Database, serverIds: readonly string[] | undefined) =>
  db
    .select({ id: applications.id, name: applications.name, machine: machines.name, zone: zones.name })
    .from(applications)
    .innerJoin(machines, eq(machines.id, applications.machineId))
    .innerJoin(zones, eq(zones.id, machines.zoneId))
    .where(and(eq(applications.kind, 'server'), eq(applications.speaks, 'ua'), ofThese(applications.id, serverIds)))
    .orderBy(asc(zones.order), asc(applications.name), asc(applications.id));

const clients = alias(applications, 'clients');

const linkRows = (db: Database, serverIds: readonly string[] | undefined) =>
  db
    .select({
      id: links.id,
      name: links.name,
      serverId: links.serverId,
      client: {
        id: clients.id,
        name: clients.name,
        securityPolicies: clients.securityPolicies,
        securityModes: clients.securityModes,
      },
      link: { chosenEndpoint: links.chosenEndpoint, identity: links.identity, floor: links.floor },
    })
    .from(links)
    .innerJoin(clients, eq(clients.id, links.clientId))
    .where(and(eq(links.kind, 'ua'), ofThese(links.serverId, serverIds)))
    .orderBy(asc(links.name), asc(links.id));
