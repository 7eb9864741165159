import { judgeLinkUrl, programOf } from '../links/link-url.js';
import type { Machine, Plant, ServerApplication, Zone } from './plant.js';

/** A server that was found somewhere: by a discovery server, by dialling an address, or in a machine’s list. */
export interface FoundServer {
  /** Host and port where it answers, as it was found. */
  readonly endpointUrl: string;
  readonly host: string;
  readonly address: string;
  readonly port: number;
  readonly applicationUri: string;
  readonly applicationName: string;
  /** Thumbprint of the certificate that it shows; null where it has none. */
  readonly thumbprint: string | null;
  /** How it was found, in words. */
  readonly by: string;
  /** Of a classic server, as its machine’s list has it; absent: it speaks OPC UA. */
  readonly classic?: FoundClassic | undefined;
}

/** A classic server in a machine’s list (OPC Common 6). */
export interface FoundClassic {
  readonly progId: string;
  readonly clsid: string;
  /** What it says to offer: `DA 2`, `HDA`, … */
  readonly categories: readonly string[];
}

export type FoundStanding =
  | { readonly standing: 'known'; readonly applicationId: string; readonly says: string }
  /** The application is known, and something about where it stands is not. */
  | { readonly standing: 'differs'; readonly applicationId: string; readonly says: string }
  /** Without a proposal where what it says of itself can’t be taken into the plant. */
  | { readonly standing: 'new'; readonly says: string; readonly proposal: FoundProposal | null };

/** What would be added to the plant: the application, its machine where no known one has the address, and a zone where there is none. */
export interface FoundProposal {
  readonly zone: Zone | null;
  readonly machine: Machine | null;
  readonly application: ServerApplication;
}

/** How a server that was found stands to what the plant knows. Nothing is added by itself. */
export function standingOf(plant: Plant, found: FoundServer): FoundStanding {
  if (found.classic) return classicStandingOf(plant, found, found.classic);
  const known = plant.applications.find(({ applicationUri }) => applicationUri === found.applicationUri);
  if (!known) {
    const proposal = proposalFor(plant, found);
    const says = proposal ? 'The plant does not know it.' : unfitUri(found.applicationUri);
    return { standing: 'new', says, proposal };
  }
  const { id: applicationId } = known;
  const machine = plant.machines.find(({ id }) => id === known.machineId);
  if (!machine?.addresses.includes(found.address)) {
    const owner = plant.machines.find(({ addresses }) => addresses.includes(found.address));
    const where = owner ? `on ${owner.name}` : 'on no machine that the plant knows';
    const says = `It is known as ${known.name} on ${machine?.name ?? 'no machine'}, and was found at ${found.address}, ${where}.`;
    return { standing: 'differs', applicationId, says };
  }
  if (known.kind === 'server' && !known.ports.includes(found.port))
    return {
      standing: 'differs',
      applicationId,
      says: `It is known as ${known.name} at port ${known.ports.join(', ') || 'none'}, and answers at ${found.port}.`,
    };
  return { standing: 'known', applicationId, says: `It is known as ${known.name}.` };
}

/** A link, or an application of the same name, on its machine tells that a classic server is known: the plant has no other name of it. */
function classicStandingOf(plant: Plant, found: FoundServer, classic: FoundClassic): FoundStanding {
  const machine = plant.machines.find(({ addresses }) => addresses.includes(found.address));
  const there = plant.applications.filter(
    ({ kind, speaks, machineId }) => kind === 'server' && speaks === 'classic' && machineId === machine?.id,
  );
  const names = [classic.progId, classic.clsid, found.applicationName].map((name) => name.toLowerCase());
  const linked = new Set(
    plant.links.flatMap(({ kind, endpointUrl, serverId }) =>
      kind === 'classic' && names.includes(programIn(endpointUrl)) ? serverId : [],
    ),
  );
  const known = there.find(({ id, name }) => linked.has(id) || names.includes(name.toLowerCase()));
  if (known) return { standing: 'known', applicationId: known.id, says: `It is known as ${known.name}.` };
  const isUsed = classic.categories.some((category) => category.startsWith('DA'));
  return {
    standing: 'new',
    says: isUsed
      ? 'The plant does not know it.'
      : `It offers ${classic.categories.join(' and ') || 'nothing of OPC'} alone, which is found here and not used.`,
    proposal: isUsed ? proposalFor(plant, found) : null,
  };
}

/** The class that a classic link names, in small letters, without the braces of a CLSID. */
function programIn(endpointUrl: string): string {
  const { parts } = judgeLinkUrl('classic', endpointUrl, undefined);
  return parts
    ? programOf(parts)
        .replace(/^\{|\}$/g, '')
        .toLowerCase()
    : '';
}

const longestUri = 500;
const longestName = 120;

const unfitUri = (uri: string): string =>
  uri.trim() === ''
    ? 'It reports no application URI, so it can’t be added to the plant. Give it one in its own configuration.'
    : `Its application URI has ${uri.length} letters or characters that can’t be stored, so it can’t be added to the plant.`;

/** What a server says of itself is anything at all: what can’t be kept is left out, or the server is not proposed. */
function proposalFor(plant: Plant, found: FoundServer): FoundProposal | null {
  const { applicationUri, classic } = found;
  if (!classic && !isUriToKeep(applicationUri)) return null;
  const owner = plant.machines.find(({ addresses }) => addresses.includes(found.address)) ?? null;
  const name = (plainName(found.applicationName) || plainName(classic?.progId ?? applicationUri))
    .slice(0, longestName)
    .trim();
  const { zone, machine } = owner ? { zone: null, machine: null } : newMachine(plant, found, name);
  return {
    zone,
    machine,
    application: {
      kind: 'server',
      id: freeId(name, plant.applications),
      machineId: (owner ?? machine)?.id ?? '',
      name,
      applicationUri: found.applicationUri,
      ...(classic ? { speaks: 'classic' as const } : {}),
      ports: [found.port],
    },
  };
}

/** A machine for an address that the plant does not have, and a zone where there is none. @param name what stands there */
function newMachine(
  plant: Plant,
  { host, address }: Pick<FoundServer, 'host' | 'address'>,
  name: string,
): { readonly zone: Zone | null; readonly machine: Machine } {
  const isName = host !== address && /^[a-z0-9_]([a-z0-9_.-]*[a-z0-9_])?$/i.test(host);
  const zone = plant.zones.length > 0 ? null : { id: 'plant-floor', name: 'Plant floor', order: 0 };
  return {
    zone,
    machine: {
      id: freeId(isName ? (host.split('.')[0] ?? name) : address, plant.machines),
      zoneId: plant.zones[0]?.id ?? zone?.id ?? '',
      name: (isName ? host : address).slice(0, longestName),
      description: '',
      hostNames: isName ? [host] : [],
      addresses: [address],
    },
  };
}

/** A field device that answered at an address. */
export interface FoundDevice extends Pick<FoundServer, 'host' | 'address' | 'port' | 'by'> {
  /** The unit that answered; null: none of those that were asked. */
  readonly unit: number | null;
  /** Whether what came shows that it speaks the protocol; if not, its port is open, and nothing came. */
  readonly speaks: boolean;
}

/** How a device that was found stands to what the plant knows, and the machine that would be added for it. */
export function deviceStandingOf(plant: Plant, found: FoundDevice) {
  const machine = plant.machines.find(({ addresses }) => addresses.includes(found.address));
  if (machine)
    return { standing: 'known' as const, says: `It is ${machine.name}.`, machineId: machine.id, proposal: null };
  const proposal = newMachine(plant, found, found.address);
  return { standing: 'new' as const, says: 'The plant does not know it.', machineId: null, proposal };
}

const isUriToKeep = (uri: string): boolean => uri.trim() !== '' && uri.length <= longestUri && plainName(uri) === uri;

/** A name as one line of plain text, without what can’t be shown or kept. */
const plainName = (text: string): string =>
  text
    .replace(/[\p{Cc}\p{Surrogate}\p{Bidi_Control}]+/gu, ' ')
    .trim()
    .slice(0, longestUri);

/** An id made of a name: small letters, digits and hyphens, and none that is taken. */
function freeId(name: string, taken: readonly { readonly id: string }[]): string {
  const plain = name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 70);
  const base = plain === '' ? 'found' : plain;
  const ids = new Set(taken.map(({ id }) => id));
  for (let count = 1; ; count += 1) {
    const id = count === 1 ? base : `${base}-${count}`;
    if (!ids.has(id)) return id;
  }
}
