import { portsIn } from '../dcom/object-ports.js';
import { linkUrlParts, registeredMapperPort } from '../links/link-url.js';
import type { LinkInPlant, Machine } from '../plant/plant.js';
import { otherSide } from '../tunnels/tunnelled.js';
import type { TunnelInPlant, TunnelledWay, TunnelPlace } from '../tunnels/tunnelled.js';
import { readAddress, readPorts } from './addresses.js';
import { newConnection, regionOf } from './flow-set.js';
import type { Region } from './flow-set.js';
import { numbersFrom, onePoint, rangesOf } from './ranges.js';
import type { Range, Ranges } from './ranges.js';
import { protocol } from './rule-set.js';

/** For what an opening is needed, by a link or a service. */
export const openingPurposes = {
  entrance: 'the entrance of the tunnel',
  tunnel: 'the tunnel',
  endpoint: 'the server’s endpoint',
  redundant: 'the redundant server’s endpoint',
  mapper: 'the server’s mapper',
  objects: 'the server’s objects',
  'callback-mapper': 'the client’s mapper, for what the server tells by itself',
  'callback-objects': 'the client’s objects, for what the server tells by itself',
  names: 'the name service',
  time: 'the time service',
  discovery: 'the discovery server',
  management: 'the management of certificates',
  device: 'the device behind the server',
} as const;
export type OpeningPurpose = keyof typeof openingPurposes;

/** Connections that must get through, from one machine to another. */
export interface Opening {
  readonly purpose: OpeningPurpose;
  /** Who opens the connection. */
  readonly opens: 'client' | 'server';
  /** The machines that it joins. */
  readonly between: { readonly from: Machine; readonly to: Machine };
  readonly source: readonly string[];
  readonly destination: readonly string[];
  readonly protocol: 'tcp' | 'udp';
  readonly ports: Ranges;
}

/** Ports that Windows gives to RPC where nothing else is set (MS-RPCE has none; the range is that of dynamic ports, IANA). */
const dynamicPorts: Ranges = [numbersFrom(49_152, 65_535)];

/** What a machine’s settings say of the ports of its objects; null: nothing. */
export type ObjectPorts = (machineId: string) => readonly string[] | null;

/**
 * The openings that a link needs, from its kind and its needs: over UA the endpoint’s port; over classic OPC the mapper, the ports of
 * objects by the machine’s own setting, and the same the other way where changes are told.
 * @param addresses of the server, as its name resolves or as they are written down
 * @param through the tunnel that it goes through; null: none
 */
export function neededOpenings(
  subject: LinkInPlant,
  addresses: readonly string[],
  objectPorts: ObjectPorts,
  through: TunnelledWay | null = null,
): readonly Opening[] {
  if (through) return openingsThrough(subject, through);
  const { link, clientMachine, serverMachine } = subject;
  const parts = linkUrlParts(link);
  if (!parts) return [];
  const there = addresses.length > 0 ? addresses : serverMachine.addresses;
  const toServer = (purpose: OpeningPurpose, ports: Ranges): Opening => ({
    purpose,
    opens: 'client',
    between: { from: clientMachine, to: serverMachine },
    source: clientMachine.addresses,
    destination: there,
    protocol: 'tcp',
    ports,
  });
  if (link.kind === 'ua') return [toServer('endpoint', onePoint(parts.port))];
  const back = (purpose: OpeningPurpose, ports: Ranges): Opening => ({
    purpose,
    opens: 'server',
    between: { from: serverMachine, to: clientMachine },
    source: there,
    destination: clientMachine.addresses,
    protocol: 'tcp',
    ports,
  });
  const isTold = link.needs.some(({ uses }) => uses.includes('watch') || uses.includes('alarms'));
  return [
    toServer('mapper', onePoint(parts.port)),
    toServer('objects', portsOf(objectPorts(serverMachine.id))),
    ...(isTold
      ? [
          back('callback-mapper', onePoint(registeredMapperPort)),
          back('callback-objects', portsOf(objectPorts(clientMachine.id))),
        ]
      : []),
  ];
}

/** A server that stands in for another one, as the plant has it. */
export interface RedundantPlace {
  readonly applicationUri: string;
  readonly name: string;
  readonly machine: Machine;
  readonly ports: readonly number[];
}

/** What redundancy adds: when the server stops, the client itself turns to the others of its set (Part 4 §6.6.2.4). */
export const openingsToRedundant = (
  { clientMachine }: Pick<LinkInPlant, 'clientMachine'>,
  others: readonly RedundantPlace[],
): readonly Opening[] =>
  others
    .filter(({ machine, ports }) => machine.id !== clientMachine.id && ports.length > 0)
    .map(({ machine, ports }) => ({
      purpose: 'redundant',
      opens: 'client',
      between: { from: clientMachine, to: machine },
      source: clientMachine.addresses,
      destination: machine.addresses,
      protocol: 'tcp',
      ports: rangesOf(ports.flatMap((port) => onePoint(port))),
    }));

/** Through a tunnel: to its entrance, from the end that dials to the one that listens, and from the last end to the server. */
function openingsThrough(
  { clientMachine, serverMachine }: LinkInPlant,
  { tunnel, side, entrance, target }: TunnelledWay,
): readonly Opening[] {
  const [near, far] = [tunnel.machines[side], tunnel.machines[otherSide(side)]];
  return [
    ...(near.id === clientMachine.id ? [] : [onePort('entrance', clientMachine, near, entrance)]),
    { ...openingOfTunnel(tunnel), opens: side === 'dials' ? 'client' : 'server' },
    ...(far.id === serverMachine.id ? [] : [onePort('endpoint', far, serverMachine, target)]),
  ];
}

/** What a tunnel needs itself, whatever goes through it: its ends meet at one port. */
export const openingOfTunnel = ({ machines, ...place }: TunnelInPlant): Opening =>
  onePort('tunnel', machines.dials, machines.listens, place);

/** What a server needs so that it can ask a device behind it for values. */
export const openingToDevice = (server: Machine, device: Machine, port: number): Opening => ({
  purpose: 'device',
  opens: 'client',
  between: { from: server, to: device },
  source: server.addresses,
  destination: device.addresses,
  protocol: 'tcp',
  ports: onePoint(port),
});

const onePort = (purpose: OpeningPurpose, from: Machine, to: Machine, { address, port }: TunnelPlace): Opening => ({
  purpose,
  opens: 'client',
  between: { from, to },
  source: from.addresses.slice(0, 1),
  destination: readAddress(address) === null ? to.addresses : [address],
  protocol: 'tcp',
  ports: onePoint(port),
});

function portsOf(written: readonly string[] | null): Ranges {
  const ranges: Range[] = (written ?? []).flatMap((text) => readPorts(text) ?? []);
  return ranges.length > 0 && portsIn(written ?? []) > 0 ? rangesOf(ranges) : dynamicPorts;
}

/** Addresses as points; what is none is left out. */
export function pointsOf(addresses: readonly string[]): Ranges {
  return rangesOf(addresses.flatMap((text) => readAddress(text) ?? []).flatMap((point) => onePoint(point)));
}

/** The first packets of an opening’s connections; null: an end has no address. */
export function flowsOfOpening({ source, destination, protocol: by, ports }: Opening): Region | null {
  const [from, to] = [pointsOf(source), pointsOf(destination)];
  if (from.length === 0 || to.length === 0) return null;
  return regionOf({
    source: from,
    destination: to,
    protocol: onePoint(protocol[by]),
    /* Ports below are not given to clients. */
    sourcePort: [numbersFrom(1024, 65_535)],
    destinationPort: ports,
    ...newConnection,
  });
}

/** How many ports. */
export const portCount = (ports: Ranges): number =>
  ports.reduce((sum, { from, to }) => sum + Number(to) - Number(from), 0);
