import type { ConduitWish, FirewallWish, ServiceWish } from '@loyal-hinge/contract';
import type { Queryable } from '../database/database.js';
import { invalid } from '../http/problems.js';
import { findMachine } from '../plant/part.js';
import { missingFirewalls, missingZones, readConduits } from './store.js';

/** Whether firewalls, conduits and services fit the plant and each other. Each of these throws a problem where they don’t. */

async function refuseMissingMachine(db: Queryable, machineId: string): Promise<void> {
  if (!(await findMachine(db, machineId)))
    throw invalid(`There is no machine “${machineId}”.`, [
      { place: 'machineId', says: 'Choose a machine of the plant.' },
    ]);
}

export async function refuseUnfitService(db: Queryable, { machineId, zoneIds }: ServiceWish): Promise<void> {
  await refuseMissingMachine(db, machineId);
  const [missing] = await missingZones(db, zoneIds);
  if (missing !== undefined)
    throw invalid(`There is no zone “${missing}”.`, [{ place: 'zoneIds', says: 'Choose zones of the plant.' }]);
}

export async function refuseUnfitFirewall(db: Queryable, { machineId, interfaces }: FirewallWish): Promise<void> {
  if (machineId !== null) await refuseMissingMachine(db, machineId);
  const [missing] = await missingZones(
    db,
    interfaces.map(({ zoneId }) => zoneId),
  );
  if (missing !== undefined)
    throw invalid(`There is no zone “${missing}”.`, [{ place: 'interfaces', says: 'Choose a zone of the plant.' }]);
}

export async function refuseUnfitConduit(
  db: Queryable,
  { fromZoneId, toZoneId, firewallIds }: ConduitWish,
  own: string | null,
): Promise<void> {
  const [zone] = await missingZones(db, [fromZoneId, toZoneId]);
  if (zone !== undefined)
    throw invalid(`There is no zone “${zone}”.`, [{ place: 'fromZoneId', says: 'Choose a zone of the plant.' }]);
  const [firewall] = await missingFirewalls(db, firewallIds);
  if (firewall !== undefined)
    throw invalid(`There is no firewall “${firewall}”.`, [
      { place: 'firewallIds', says: 'Choose firewalls of the plant.' },
    ]);
  const other = (await readConduits(db)).find(
    (each) => each.id !== own && each.fromZoneId === fromZoneId && each.toZoneId === toZoneId,
  );
  if (other)
    throw invalid(`“${other.name}” already leads from the one zone to the other.`, [
      { place: 'toZoneId', says: `“${other.name}” already leads there.` },
    ]);
}
