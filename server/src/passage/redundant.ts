import { openingsToRedundant } from '@loyal-hinge/core';
import type { LinkInPlant, PassageFact, RedundantPlace, RedundantServer } from '@loyal-hinge/core';
import { and, eq, inArray } from 'drizzle-orm';
import type { Queryable } from '../database/database.js';
import { applications, links, machines, serverRedundancy } from '../database/schema.js';
import type { KnownPassage } from './known.js';
import { judgedOpening, passageFactOf } from './ways.js';

/** By server, those that stand in for it, as far as the plant has them. */
export async function redundantPlaces(db: Queryable): Promise<ReadonlyMap<string, readonly RedundantPlace[]>> {
  const told = await db.select().from(serverRedundancy);
  const places = await placesOf(db, [...new Set(told.flatMap(({ uris }) => uris))]);
  return new Map(
    told.map(({ serverId, uris }) => [serverId, places.filter(({ applicationUri }) => uris.includes(applicationUri))]),
  );
}

/** What a check is told of servers that stand in for the link’s own, and of the ways to them. */
export async function knownRedundant(
  db: Queryable,
  known: KnownPassage,
  subject: LinkInPlant,
  uris: readonly string[],
): Promise<{ readonly others: readonly RedundantServer[]; readonly passage: readonly PassageFact[] }> {
  const [places, linked] = await Promise.all([placesOf(db, uris), linkedFrom(db, subject.client.id, uris)]);
  const openings = known.plan.devices.length === 0 ? [] : openingsToRedundant(subject, places);
  return {
    others: uris.map((applicationUri) => ({
      applicationUri,
      name: places.find((place) => place.applicationUri === applicationUri)?.name ?? null,
      isLinked: linked.has(applicationUri),
    })),
    passage: openings.flatMap((opening) => {
      const judged = judgedOpening(known, opening);
      return judged ? [passageFactOf(known, subject.link.name, judged)] : [];
    }),
  };
}

const isServerOf = (uris: readonly string[]) =>
  and(eq(applications.kind, 'server'), inArray(applications.applicationUri, [...uris]));

async function placesOf(db: Queryable, uris: readonly string[]): Promise<readonly RedundantPlace[]> {
  if (uris.length === 0) return [];
  const rows = await db
    .select({ application: applications, machine: machines })
    .from(applications)
    .innerJoin(machines, eq(machines.id, applications.machineId))
    .where(isServerOf(uris));
  return rows.map(({ application: { applicationUri, name, ports }, machine }) => ({
    applicationUri,
    name,
    machine,
    ports,
  }));
}

/** To which of these servers a link of the client leads. */
async function linkedFrom(db: Queryable, clientId: string, uris: readonly string[]): Promise<ReadonlySet<string>> {
  if (uris.length === 0) return new Set();
  const rows = await db
    .select({ applicationUri: applications.applicationUri })
    .from(links)
    .innerJoin(applications, eq(applications.id, links.serverId))
    .where(and(eq(links.clientId, clientId), isServerOf(uris)));
  return new Set(rows.map(({ applicationUri }) => applicationUri));
}
