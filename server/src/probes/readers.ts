import { eq, inArray } from 'drizzle-orm';
import type { DeviceReaders } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { applications, itemOrigins, machines } from '../database/schema.js';
import { notFound } from '../http/problems.js';
import { isHere } from '../outposts/store.js';
import { machinesOfProbes, readProbes } from './store.js';

/**
 * Which probes could read a device, and which of those that are connected is nearest: one in its zone, or else one where a
 * server reads it.
 */
export async function readersOf(db: Database, deviceId: string): Promise<DeviceReaders> {
  const [device] = await db.select({ zoneId: machines.zoneId }).from(machines).where(eq(machines.id, deviceId));
  if (!device) throw notFound('machine', deviceId);
  const [rows, standingFor, serving] = await Promise.all([
    readProbes(db),
    machinesOfProbes(db),
    db
      .selectDistinct({ machineId: applications.machineId })
      .from(itemOrigins)
      .innerJoin(applications, eq(applications.id, itemOrigins.serverId))
      .where(eq(itemOrigins.deviceId, deviceId)),
  ]);
  const placesOf = (id: string, own: string | null): readonly string[] => [
    ...(own === null ? [] : [own]),
    ...(standingFor.get(id) ?? []),
  ];
  const ids = [...new Set(rows.flatMap(({ id, machineId }) => placesOf(id, machineId)))];
  const places = new Map(
    (ids.length === 0
      ? []
      : await db
          .select({ id: machines.id, name: machines.name, zoneId: machines.zoneId })
          .from(machines)
          .where(inArray(machines.id, ids))
    ).map((machine) => [machine.id, machine]),
  );
  const probes = rows.map(({ id, name, machineId, processId, heardAt, told }) => ({
    id,
    name,
    machine: places.get(machineId ?? '')?.name ?? null,
    isConnected: isHere({ processId, heardAt }) && told?.kind === 'probe' && told.readsDevices,
    places: placesOf(id, machineId),
  }));
  const isInZone = (place: string): boolean => places.get(place)?.zoneId === device.zoneId;
  const isAtServer = (place: string): boolean => serving.some(({ machineId }) => machineId === place);
  const connected = probes.filter(({ isConnected }) => isConnected);
  const nearest =
    connected.find((probe) => probe.places.some(isInZone)) ?? connected.find((probe) => probe.places.some(isAtServer));
  return { probes: probes.map(({ places: _, ...probe }) => probe), nearest: nearest?.id ?? null };
}
