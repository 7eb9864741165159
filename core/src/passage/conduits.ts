import type { Machine } from '../plant/plant.js';
import { readAddress } from './addresses.js';
import { cut, isEmpty, regionOf } from './flow-set.js';
import type { FlowSet } from './flow-set.js';
import { onePoint, rangesOf } from './ranges.js';
import type { Ranges } from './ranges.js';
import type { PassageDevice, PassagePlan } from './way.js';

/** Two zones, in the direction in which a connection is opened. */
export interface Crossing {
  readonly fromZoneId: string;
  readonly toZoneId: string;
}

type Placed = Pick<Machine, 'zoneId' | 'addresses'>;

/**
 * Zones between which flows let machines of the plant open connections although no conduit leads from the one to the other
 * (IEC 62443-3-2). Where a plant has no conduits, nothing is known of what may be.
 */
export function crossingsWithoutConduit(
  plan: PassagePlan,
  device: PassageDevice,
  machines: readonly Placed[],
  flows: FlowSet,
): readonly Crossing[] {
  if (plan.conduits.length === 0 || flows.length === 0) return [];
  const addresses = new Map(
    plan.zones.map(({ id }) => [id, addressesOf(machines.filter(({ zoneId }) => zoneId === id))]),
  );
  return device.interfaces.flatMap((from) =>
    device.interfaces.flatMap((to): readonly Crossing[] => {
      const isAllowed = plan.conduits.some(
        ({ fromZoneId, toZoneId }) => fromZoneId === from.zoneId && toZoneId === to.zoneId,
      );
      if (from.zoneId === to.zoneId || isAllowed || leadsOn(plan, device, from.zoneId, to.zoneId)) return [];
      const crossing = regionOf({
        inInterface: named(from.name),
        outInterface: named(to.name),
        source: addresses.get(from.zoneId) ?? [],
        destination: addresses.get(to.zoneId) ?? [],
      });
      const isPossible = crossing.every((points) => points === null || points.length > 0);
      return isPossible && !isEmpty(cut(flows, [crossing])) ? [{ fromZoneId: from.zoneId, toZoneId: to.zoneId }] : [];
    }),
  );
}

/** A conduit of zones further away may lead over these two; then something between them has to be let through. */
const leadsOn = ({ conduits }: PassagePlan, device: PassageDevice, from: string, to: string): boolean =>
  conduits.some(
    ({ deviceIds, fromZoneId, toZoneId }) =>
      deviceIds.length > 1 && deviceIds.includes(device.id) && (fromZoneId === from || toZoneId === to),
  );

const addressesOf = (machines: readonly Placed[]): Ranges =>
  rangesOf(
    machines.flatMap(({ addresses }) =>
      addresses.flatMap((text) => readAddress(text) ?? []).flatMap((point) => onePoint(point)),
    ),
  );

const named = (name: string): Ranges => [{ from: name, to: `${name}\0` }];
