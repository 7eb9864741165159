import { asc } from 'drizzle-orm';
import type { Zone } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import { machines, zones } from '../database/schema.js';
import { plantNameOf } from '../database/settings.js';

/** Where applications stand: the zones in their order, and the zone of each machine. */
export interface Places {
  readonly name: string;
  readonly zones: readonly Zone[];
  readonly zoneOfMachine: ReadonlyMap<string, Zone>;
}

export async function readPlaces(db: Queryable): Promise<Places> {
  const [name, zoneRows, machineRows] = await Promise.all([
    plantNameOf(db),
    db.select().from(zones).orderBy(asc(zones.order), asc(zones.id)),
    db.select({ id: machines.id, zoneId: machines.zoneId }).from(machines),
  ]);
  const byId = new Map(zoneRows.map((zone) => [zone.id, zone]));
  const placed = machineRows.flatMap(({ id, zoneId }) => {
    const zone = byId.get(zoneId);
    return zone ? [[id, zone] as const] : [];
  });
  return { name, zones: zoneRows, zoneOfMachine: new Map(placed) };
}
