import type { Machine, Plant } from '../plant/plant.js';
import type { Opening, OpeningPurpose } from './openings.js';
import { onePoint, rangesOf } from './ranges.js';

/** What machines need beside their links. */
export const serviceKinds = ['names', 'time', 'discovery', 'management'] as const;
export type ServiceKind = (typeof serviceKinds)[number];

/**
 * A service of the plant. Of `names` (DNS, RFC 1035), `time` (NTP, RFC 5905) and `discovery` (a discovery server, OPC 10000-12,
 * 4) machines open connections to it; of `management` (push management, OPC 10000-12, 7.3) it opens them to servers.
 */
export interface PlantService {
  readonly id: string;
  readonly name: string;
  readonly kind: ServiceKind;
  /** Where it runs. */
  readonly machineId: string;
  /** On which port it answers; of `management` null: it goes to the servers’ own. */
  readonly port: number | null;
  /** Zones whose machines use it, or whose servers it manages; empty: all. */
  readonly zoneIds: readonly string[];
}

/** Registered ports (IANA). */
export const usualPorts: Readonly<Record<ServiceKind, number | null>> = {
  names: 53,
  time: 123,
  discovery: 4840,
  management: null,
};

/** What one service needs of one zone. */
export interface ServiceInZone {
  readonly service: PlantService;
  readonly zone: Plant['zones'][number];
  readonly openings: readonly Opening[];
}

/** As what several machines of a zone are told together. */
export const machinesOfZone = ({ id, name }: { readonly id: string; readonly name: string }) => ({
  id: `machines of ${id}`,
  name: `machines of ${name}`,
});

type Known = Pick<Plant, 'zones' | 'machines' | 'applications'>;

/**
 * The openings that a service needs, by the zones from which it is used. Machines of a zone are taken together, except those
 * with a firewall of their own.
 * @param guarded machines that have one, by their ids
 */
export function openingsOfService(
  service: PlantService,
  plant: Known,
  guarded: ReadonlySet<string>,
): readonly ServiceInZone[] {
  const host = plant.machines.find(({ id }) => id === service.machineId);
  if (!host) return [];
  return plant.zones.flatMap((zone) => {
    if (service.zoneIds.length > 0 && !service.zoneIds.includes(zone.id)) return [];
    const machines = plant.machines.filter(({ id, zoneId }) => zoneId === zone.id && id !== host.id);
    const isApart = (machine: Machine): boolean =>
      zone.id !== host.zoneId || guarded.has(machine.id) || guarded.has(host.id);
    const users = usersOf(service, plant, machines.filter(isApart));
    const openings = users.flatMap(({ ports, machines: using }) =>
      groupsOf(using, guarded, zone).flatMap((group) => openingsBetween(service, group, host, ports)),
    );
    return openings.length === 0 ? [] : [{ service, zone, openings }];
  });
}

interface Users {
  readonly ports: readonly number[];
  readonly machines: readonly Machine[];
}

function usersOf(
  { kind, port }: PlantService,
  { applications }: Known,
  machines: readonly Machine[],
): readonly Users[] {
  if (kind !== 'management') {
    const using = machines.filter(({ id }) =>
      applications.some(({ machineId, speaks }) => machineId === id && (kind !== 'discovery' || speaks !== 'classic')),
    );
    return port === null || using.length === 0 ? [] : [{ ports: [port], machines: using }];
  }
  const byPorts = new Map<string, Users>();
  for (const machine of machines) {
    const ports = applications.flatMap((application) =>
      application.kind === 'server' && application.machineId === machine.id && application.speaks !== 'classic'
        ? application.ports
        : [],
    );
    if (ports.length === 0) continue;
    const sorted = [...new Set(ports)].sort((left, right) => left - right);
    const before = byPorts.get(sorted.join())?.machines ?? [];
    byPorts.set(sorted.join(), { ports: sorted, machines: [...before, machine] });
  }
  return [...byPorts.values()];
}

/** Machines together as one, and each with a firewall of its own alone. */
function groupsOf(
  machines: readonly Machine[],
  guarded: ReadonlySet<string>,
  zone: ServiceInZone['zone'],
): readonly Machine[] {
  const open = machines.filter(({ id }) => !guarded.has(id));
  const alone = machines.filter(({ id }) => guarded.has(id));
  const [first] = open;
  if (!first) return alone;
  const together: Machine =
    open.length === 1
      ? first
      : {
          ...machinesOfZone(zone),
          zoneId: zone.id,
          description: '',
          hostNames: [],
          addresses: open.flatMap(({ addresses }) => addresses),
        };
  return [together, ...alone];
}

function openingsBetween(
  { kind }: PlantService,
  group: Machine,
  host: Machine,
  ports: readonly number[],
): readonly Opening[] {
  const [from, to] = kind === 'management' ? [host, group] : [group, host];
  const opening = (protocol: Opening['protocol']): Opening => ({
    purpose: kind satisfies OpeningPurpose,
    opens: kind === 'management' ? 'server' : 'client',
    between: { from, to },
    source: from.addresses,
    destination: to.addresses,
    protocol,
    ports: rangesOf(ports.flatMap((port) => onePoint(port))),
  });
  /* Long answers of a name server come over TCP (RFC 7766). */
  if (kind === 'names') return [opening('udp'), opening('tcp')];
  return [opening(kind === 'time' ? 'udp' : 'tcp')];
}
