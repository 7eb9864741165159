import { asc, eq, inArray, sql } from 'drizzle-orm';
import { sayFact } from '@loyal-hinge/core';
import type { Fact, FactOf, ValuesBehind } from '@loyal-hinge/core';
import { conventionWords, isAboutUnit, sayForm, tableShapes } from '@loyal-hinge/core/field';
import type { ItemOrigin } from '@loyal-hinge/core/field';
import type { AnswerOf, DeviceView } from '@loyal-hinge/contract';
import type { Database } from '../../database/database.js';
import { applications, itemOrigins, links, machines, zones } from '../../database/schema.js';
import { assessmentOf, factsOfCheck } from '../../facts/store.js';
import { notFound } from '../../http/problems.js';
import { Origins } from '../origins/origins.js';
import { LatestValues } from './latest-values.js';

/** Of so many links at most is looked up what they met at a device. */
const mostLinks = 50;

export async function devicesOf(db: Database): Promise<AnswerOf<'devices'>> {
  const rows = await db
    .select({ id: machines.id, name: machines.name, zone: zones.name, items: sql<number>`count(*)::int` })
    .from(itemOrigins)
    .innerJoin(machines, eq(machines.id, itemOrigins.deviceId))
    .innerJoin(zones, eq(zones.id, machines.zoneId))
    .groupBy(machines.id, machines.name, zones.name, zones.order)
    .orderBy(asc(zones.order), asc(machines.name));
  return { devices: rows };
}

export async function deviceOf(db: Database, deviceId: string): Promise<DeviceView> {
  const [machine] = await db
    .select({ id: machines.id, name: machines.name, zone: zones.name, addresses: machines.addresses })
    .from(machines)
    .innerJoin(zones, eq(zones.id, machines.zoneId))
    .where(eq(machines.id, deviceId));
  if (!machine) throw notFound('machine', deviceId);
  const { origins } = await new Origins(db).view({ device: deviceId });
  const serverIds = [...new Set(origins.map(({ serverId }) => serverId))];
  const [servers, needing] = await Promise.all([namesOf(db, serverIds), linksOf(db, serverIds)]);
  const seen = await Promise.all(
    needing.slice(0, mostLinks).map(async ({ id, serverId }) => ({ serverId, facts: await factsOfLink(db, id) })),
  );
  const values = new LatestValues(seen);
  const facts = seen.flatMap((one) => one.facts);
  return {
    ...machine,
    addresses: [...machine.addresses],
    ports: [...new Set(origins.map(({ origin }) => origin.port))]
      .sort(ascending)
      .map((port) => portOf(facts, deviceId, port)),
    items: origins.map(({ serverId, path, origin, sharesWith }) => ({
      ...valuesOf(values.of(serverId, path)),
      serverId,
      server: servers.get(serverId) ?? serverId,
      path,
      linkId: needing.find((link) => link.serverId === serverId && link.paths.includes(path))?.id ?? null,
      origin,
      comesFrom: comesFrom(origin),
      sharesWith,
    })),
  };
}

const valuesOf = (seen: ValuesBehind | null): Pick<DeviceView['items'][number], 'served' | 'atDevice' | 'agrees'> => ({
  served: seen?.served ?? null,
  atDevice: seen?.atDevice ?? null,
  agrees: seen?.agrees ?? null,
});
const ascending = (left: number, right: number): number => left - right;

function comesFrom({ unit, table, address, convention, form }: ItemOrigin): string {
  const counted = convention.endsWith('digit') ? '' : ` (${conventionWords[convention]})`;
  return `unit ${unit}, ${tableShapes[table].one} ${address}${counted}, ${sayForm(form)}`;
}

/** What the newest of all checks met at a port, and of each unit. */
function portOf(facts: readonly Fact[], deviceId: string, port: number): DeviceView['ports'][number] {
  const sorted = [...facts].sort((left, right) => right.at.localeCompare(left.at));
  const newest = <Kind extends 'field-reach' | 'field-answer'>(kind: Kind): readonly FactOf<Kind>[] =>
    sorted.filter(
      (fact): fact is FactOf<Kind> => fact.kind === kind && 'deviceId' in fact && fact.deviceId === deviceId,
    );
  const reach = newest('field-reach').find((fact) => fact.port === port) ?? null;
  const units = new Map<number, FactOf<'field-answer'>>();
  for (const fact of newest('field-answer')) if (!units.has(fact.unit)) units.set(fact.unit, fact);
  return {
    port,
    outcome: reach?.outcome ?? null,
    ms: reach?.ms ?? null,
    at: reach?.at ?? null,
    units: [...units.values()]
      .sort((left, right) => left.unit - right.unit)
      .map((fact) => ({
        unit: fact.unit,
        answers: fact.outcome === 'values' || (fact.outcome === 'exception' && !isAboutUnit(fact.code ?? 0)),
        says: sayFact(fact),
        ms: fact.ms,
        at: fact.at,
      })),
  };
}

async function namesOf(db: Database, ids: readonly string[]): Promise<ReadonlyMap<string, string>> {
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({ id: applications.id, name: applications.name })
    .from(applications)
    .where(inArray(applications.id, [...ids]));
  return new Map(rows.map(({ id, name }) => [id, name]));
}

async function linksOf(db: Database, serverIds: readonly string[]) {
  if (serverIds.length === 0) return [];
  const rows = await db
    .select({ id: links.id, serverId: links.serverId, needs: links.needs })
    .from(links)
    .where(inArray(links.serverId, [...serverIds]))
    .orderBy(asc(links.id));
  return rows.map(({ id, serverId, needs }) => ({ id, serverId, paths: needs.map(({ path }) => path) }));
}

async function factsOfLink(db: Database, linkId: string): Promise<readonly Fact[]> {
  const kept = await assessmentOf(db, linkId);
  return kept ? factsOfCheck(db, kept.checkId) : [];
}
