import type { LinkKindId } from '../links/kinds.js';
import type { SecurityMode, SecurityPolicyName } from '../ua/security-policies.js';

/**
 * The plant: everything that is known about zones, machines, applications and links.
 * Ids are short readable words, unique within their kind; they stand in addresses and in exported files.
 */

export interface Zone {
  readonly id: string;
  readonly name: string;
  /** Position in the list of zones, from the process outwards. */
  readonly order: number;
  /** Target security level (SL-T, IEC 62443-3-2 ZCR 6), 1 to 4; null or absent: none is set. */
  readonly targetLevel?: number | null | undefined;
}

/** A host with its names and addresses, in one zone. */
export interface Machine {
  readonly id: string;
  readonly zoneId: string;
  readonly name: string;
  readonly description: string;
  readonly hostNames: readonly string[];
  /** IPv4 or IPv6 literals. */
  readonly addresses: readonly string[];
}

interface ApplicationOnMachine {
  readonly id: string;
  readonly machineId: string;
  readonly name: string;
  /** ApplicationDescription.applicationUri (Part 4 §7.2); a classic application has none, and it is empty. */
  readonly applicationUri: string;
  /** What it speaks; absent: OPC UA. */
  readonly speaks?: LinkKindId | undefined;
}

export interface ServerApplication extends ApplicationOnMachine {
  readonly kind: 'server';
  /** TCP ports on which this server is known to listen; of a classic one, its machine’s mapper. */
  readonly ports: readonly number[];
}

export interface ClientApplication extends ApplicationOnMachine {
  readonly kind: 'client';
  readonly securityPolicies: readonly SecurityPolicyName[];
  readonly securityModes: readonly SecurityMode[];
}

export type Application = ServerApplication | ClientApplication;

/** `history`: earlier values are read; `alarms`: events of the node arrive by themselves. */
export const itemUses = ['read', 'watch', 'write', 'history', 'alarms'] as const;
export type ItemUse = (typeof itemUses)[number];

/** One item that a link needs, and for what. */
export interface NeededItem {
  /**
   * A browse path below Objects, parts divided by `/`, or a node id such as `ns=2;s=Crown`; where nothing has that name, a
   * pattern for such paths (`item-pattern.ts`), which stands for all variables that fit.
   */
  readonly path: string;
  readonly uses: readonly ItemUse[];
}

export type LinkIdentity =
  | { readonly kind: 'anonymous' }
  /** The password is kept apart, encrypted; it is never part of the plant. */
  | { readonly kind: 'user'; readonly userName: string }
  /** A user certificate of the plant, by its name; the certificate and its key are kept apart. */
  | { readonly kind: 'certificate'; readonly certificate: string };

/** The weakest message security that the plant accepts on a link. */
export const securityFloors = ['any', 'signed', 'encrypted'] as const;
export type SecurityFloor = (typeof securityFloors)[number];

export interface ChosenEndpoint {
  readonly policy: SecurityPolicyName;
  readonly mode: SecurityMode;
}

/** Levels at which classic calls are made (MS-RPCE 2.2.1.1.8), weakest first. */
export const callLevels = ['none', 'connect', 'call', 'packet', 'integrity', 'privacy'] as const;
export type CallLevel = (typeof callLevels)[number];

/** How a classic client calls. */
export interface ClassicCalls {
  readonly level: CallLevel;
  /** How often changes are wanted. */
  readonly updateRateMs: number;
}
export const usualCalls: ClassicCalls = { level: 'integrity', updateRateMs: 1000 };

/** A client application that must be able to hold a session with a server application. */
export interface Link {
  readonly id: string;
  readonly kind: LinkKindId;
  readonly name: string;
  readonly clientId: string;
  readonly serverId: string;
  /** Of a classic link, `classic://host:135/` and the server’s class, by its program’s name or its CLSID. */
  readonly endpointUrl: string;
  /** The one address to use where the host has several; null: as the name resolves. */
  readonly pinnedAddress: string | null;
  /** The endpoint that a person chose; null: the best that both sides have. */
  readonly chosenEndpoint: ChosenEndpoint | null;
  readonly needs: readonly NeededItem[];
  readonly identity: LinkIdentity;
  readonly floor: SecurityFloor;
  /** A value whose source timestamp is older than this is stale. */
  readonly staleAfterMs: number;
  /** Of a classic link; absent: as usual. */
  readonly classic?: ClassicCalls | null | undefined;
}

export interface Plant {
  readonly name: string;
  readonly zones: readonly Zone[];
  readonly machines: readonly Machine[];
  readonly applications: readonly Application[];
  readonly links: readonly Link[];
}

/** A link with both of its ends, ready to be assessed. */
export interface LinkInPlant {
  readonly link: Link;
  readonly client: ClientApplication;
  readonly clientMachine: Machine;
  readonly server: ServerApplication;
  readonly serverMachine: Machine;
  /** Machines of the plant for naming the one that was probably meant: all of them, or those that may be. */
  readonly machines: readonly Machine[];
}

export type PlantFault = { readonly subject: string; readonly field: string; readonly says: string };

/** Finds the ends of one link, or says which of them is missing. */
export function linkInPlant(plant: Plant, linkId: string): LinkInPlant | PlantFault {
  const link = plant.links.find((candidate) => candidate.id === linkId);
  if (!link) return { subject: linkId, field: 'id', says: `There is no link "${linkId}".` };
  const client = plant.applications.find((candidate) => candidate.id === link.clientId);
  const server = plant.applications.find((candidate) => candidate.id === link.serverId);
  if (client?.kind !== 'client') return fault(link, 'clientId', `"${link.clientId}" is no client application.`);
  if (server?.kind !== 'server') return fault(link, 'serverId', `"${link.serverId}" is no server application.`);
  const clientMachine = plant.machines.find((machine) => machine.id === client.machineId);
  const serverMachine = plant.machines.find((machine) => machine.id === server.machineId);
  if (!clientMachine) return fault(link, 'clientId', `"${client.name}" is on no known machine.`);
  if (!serverMachine) return fault(link, 'serverId', `"${server.name}" is on no known machine.`);
  return { link, client, clientMachine, server, serverMachine, machines: plant.machines };
}

export const isPlantFault = (value: LinkInPlant | PlantFault): value is PlantFault => 'says' in value;

function fault(link: Link, field: string, says: string): PlantFault {
  return { subject: link.id, field, says };
}

/**
 * What contradicts itself in a plant: ids used twice and references that lead nowhere.
 * An empty list means that every link can be assessed.
 */
export function plantFaults(plant: Plant): readonly PlantFault[] {
  const zoneIds = new Set(plant.zones.map((zone) => zone.id));
  const machineIds = new Set(plant.machines.map((machine) => machine.id));
  const kinds = new Map(plant.applications.map((application) => [application.id, application.kind]));
  const spoken = new Map(plant.applications.map(({ id, speaks }) => [id, speaks ?? 'ua']));
  const absent = (subject: string, field: string, id: string): PlantFault => ({
    subject,
    field,
    says: `"${id}" is not in the plant.`,
  });
  return [
    ...twice('zone', plant.zones),
    ...twice('machine', plant.machines),
    ...twice('application', plant.applications),
    ...twice('link', plant.links),
    ...plant.machines
      .filter((machine) => !zoneIds.has(machine.zoneId))
      .map((machine) => absent(machine.id, 'zoneId', machine.zoneId)),
    ...plant.applications
      .filter((application) => !machineIds.has(application.machineId))
      .map((application) => absent(application.id, 'machineId', application.machineId)),
    ...plant.links
      .filter((link) => kinds.get(link.clientId) !== 'client')
      .map((link) => absent(link.id, 'clientId', link.clientId)),
    ...plant.links
      .filter((link) => kinds.get(link.serverId) !== 'server')
      .map((link) => absent(link.id, 'serverId', link.serverId)),
    ...plant.links.flatMap((link) =>
      (['clientId', 'serverId'] as const)
        .filter((end) => (spoken.get(link[end]) ?? link.kind) !== link.kind)
        .map((end) => ({ subject: link.id, field: end, says: saysOtherKind(link.kind) })),
    ),
  ];
}

/** Said of an end of a link that speaks another kind of OPC. */
export const saysOtherKind = (kind: LinkKindId): string =>
  `It does not speak ${kind === 'ua' ? 'OPC UA' : 'classic OPC'}, and the link does.`;

function twice(kind: string, rows: readonly { readonly id: string }[]): PlantFault[] {
  const seen = new Set<string>();
  return rows.flatMap(({ id }) => {
    const repeated = seen.has(id);
    seen.add(id);
    return repeated ? [{ subject: id, field: 'id', says: `The ${kind} id "${id}" is used twice.` }] : [];
  });
}
