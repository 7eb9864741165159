import type { Machine, Plant, ServerApplication } from './plant.js';

/** A UA server that was found somewhere: by a discovery server, or by dialling an address. */
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
}

export type FoundStanding =
  | { readonly standing: 'known'; readonly applicationId: string; readonly says: string }
  /** The application is known, and something about where it stands is not. */
  | { readonly standing: 'differs'; readonly applicationId: string; readonly says: string }
  | { readonly standing: 'new'; readonly says: string; readonly proposal: FoundProposal };

/** What would be added to the plant: the application, and its machine where no known one has the address. */
export interface FoundProposal {
  readonly machine: Machine | null;
  readonly application: ServerApplication;
}

/** How a server that was found stands to what the plant knows. Nothing is added by itself. */
export function standingOf(plant: Plant, found: FoundServer): FoundStanding {
  const known = plant.applications.find(({ applicationUri }) => applicationUri === found.applicationUri);
  if (!known) return { standing: 'new', says: 'The plant does not know it.', proposal: proposalFor(plant, found) };
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

function proposalFor(plant: Plant, found: FoundServer): FoundProposal {
  const owner = plant.machines.find(({ addresses }) => addresses.includes(found.address)) ?? null;
  const name = found.applicationName || found.applicationUri;
  const isName = found.host !== found.address;
  const machine: Machine | null = owner
    ? null
    : {
        id: freeId(isName ? (found.host.split('.')[0] ?? name) : found.address, plant.machines),
        zoneId: plant.zones[0]?.id ?? '',
        name: isName ? found.host : found.address,
        description: '',
        hostNames: isName ? [found.host] : [],
        addresses: [found.address],
      };
  return {
    machine,
    application: {
      kind: 'server',
      id: freeId(name, plant.applications),
      machineId: (owner ?? machine)?.id ?? '',
      name,
      applicationUri: found.applicationUri,
      ports: [found.port],
    },
  };
}

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
