import type { Machine } from '@loyal-hinge/core';
import { placeOf } from '@loyal-hinge/core/field';
import type { Walk } from '../walk.js';
import { DeviceVisit } from './device-visit.js';
import type { ReadServed } from './device-visit.js';
import type { KnownOrigin } from './means.js';

/** Notes where the plant says that the values of a link’s items come from. */
export function noteOrigins(walk: Walk): void {
  const needed = new Set(walk.subject.link.needs.map(({ path }) => path));
  for (const known of walk.means.origins) if (needed.has(known.path)) noteOrigin(walk, known);
}

function noteOrigin(walk: Walk, { path, origin, device }: KnownOrigin): void {
  const { deviceId, port, unit, table, convention, form, within } = origin;
  walk.log.note(
    {
      kind: 'field-origin',
      path,
      deviceId,
      device: device?.name ?? null,
      port,
      unit,
      table,
      place: placeOf(origin),
      convention,
      form,
      within,
    },
    'reported',
  );
}

/** Goes behind the server, to the devices whose values its items are, and notes what is there beside what the server gives. Only reads. */
export async function lookBehind(walk: Walk, paths: readonly string[], served: ReadServed): Promise<void> {
  const wanted = walk.means.origins.filter(({ path }) => paths.includes(path));
  const needed = new Set(walk.subject.link.needs.map(({ path }) => path));
  // Those that only a pattern brought were not noted when the walk began.
  for (const known of wanted) if (!needed.has(known.path)) noteOrigin(walk, known);
  const byDevice = new Map<string, { readonly device: Machine; readonly origins: KnownOrigin[] }>();
  for (const known of wanted) {
    if (!known.device) continue;
    const key = `${known.device.id}:${known.origin.port}`;
    const group = byDevice.get(key) ?? { device: known.device, origins: [] };
    group.origins.push(known);
    byDevice.set(key, group);
  }
  for (const { device, origins } of byDevice.values()) {
    const visit = (): Promise<void> => new DeviceVisit(walk, device, origins, served).make();
    // The server’s own machine is held already, by this check.
    if (device.id === walk.subject.serverMachine.id) await visit();
    else await walk.means.atDevice(device.id, visit, walk.signal);
    walk.signal.throwIfAborted();
  }
}
