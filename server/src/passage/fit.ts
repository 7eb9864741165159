import type { ConduitWish, FirewallWish, ServiceWish } from '@loyal-hinge/contract';
import type { Queryable } from '../database/database.js';
import { invalid } from '../http/problems.js';
import type { ProblemError } from '../http/problems.js';
import { idsOfPlaces, readConduits, readFirewalls } from './store.js';

/** What firewalls, conduits and services may name. */
export interface KnownPlaces {
  readonly machines: ReadonlySet<string>;
  readonly zones: ReadonlySet<string>;
  readonly firewalls: ReadonlySet<string>;
  readonly conduits: readonly (Pick<ConduitWish, 'name' | 'fromZoneId' | 'toZoneId'> & { readonly id: string })[];
}

export async function knownPlaces(db: Queryable): Promise<KnownPlaces> {
  const [{ machines, zones }, firewalls, conduits] = await Promise.all([
    idsOfPlaces(db),
    readFirewalls(db),
    readConduits(db),
  ]);
  return { machines, zones, firewalls: new Set(firewalls.map(({ id }) => id)), conduits };
}

const unknown = (word: string, id: string, place: string, says: string): ProblemError =>
  invalid(`There is no ${word} “${id}”.`, [{ place, says }]);

/** @throws a problem where a service does not fit the plant; the same for the others below */
export function refuseUnfitService({ machines, zones }: KnownPlaces, { machineId, zoneIds }: ServiceWish): void {
  if (!machines.has(machineId)) throw unknown('machine', machineId, 'machineId', 'Choose a machine of the plant.');
  const missing = zoneIds.find((id) => !zones.has(id));
  if (missing !== undefined) throw unknown('zone', missing, 'zoneIds', 'Choose zones of the plant.');
}

export function refuseUnfitFirewall({ machines, zones }: KnownPlaces, { machineId, interfaces }: FirewallWish): void {
  if (machineId !== null && !machines.has(machineId))
    throw unknown('machine', machineId, 'machineId', 'Choose a machine of the plant.');
  const missing = interfaces.find(({ zoneId }) => !zones.has(zoneId));
  if (missing) throw unknown('zone', missing.zoneId, 'interfaces', 'Choose a zone of the plant.');
}

/** @param own its id; null: it is new */
export function refuseUnfitConduit(
  { zones, firewalls, conduits }: KnownPlaces,
  wish: ConduitWish,
  own: string | null,
): void {
  for (const place of ['fromZoneId', 'toZoneId'] as const)
    if (!zones.has(wish[place])) throw unknown('zone', wish[place], place, 'Choose a zone of the plant.');
  const { fromZoneId, toZoneId, firewallIds } = wish;
  const firewall = firewallIds.find((id) => !firewalls.has(id));
  if (firewall !== undefined) throw unknown('firewall', firewall, 'firewallIds', 'Choose firewalls of the plant.');
  const other = conduits.find(
    (each) => each.id !== own && each.fromZoneId === fromZoneId && each.toZoneId === toZoneId,
  );
  if (other)
    throw invalid(`“${other.name}” already leads from the one zone to the other.`, [
      { place: 'toZoneId', says: `“${other.name}” already leads there.` },
    ]);
}
