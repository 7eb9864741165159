import type { Plant, ServerApplication } from '@loyal-hinge/core';
import { inBlock } from './address-block.js';
import { classicApplications, classicLinks, classicMachines } from './classic.js';
import { standInClients } from './clients.js';
import { links } from './links.js';
import { host, machines, unknownMachine, uri, zones } from './machines.js';
import { believedServers, standInServers } from './servers.js';

export { inBlock, plantRange } from './address-block.js';
export * from './classic.js';
export * from './clients.js';
export { applicationUriOf, wrongPasswordLinks } from './links.js';
export * from './field.js';
export * from './firewalls.js';
export * from './servers.js';

/** The engineer does not know of the machine that a contractor put up. */
const knownServers = standInServers.filter(({ machineId }) => machineId !== unknownMachine.id);

/** The plant as its engineer has written it down. */
export const marrowbyGlass: Plant = {
  name: 'Marrowby Glass',
  zones,
  machines: [...machines, ...classicMachines],
  applications: [
    ...knownServers.map((standIn): ServerApplication => ({
      kind: 'server',
      id: standIn.id,
      machineId: standIn.machineId,
      name: standIn.name,
      applicationUri: uri(standIn.id),
      ports: [standIn.port],
    })),
    ...believedServers,
    ...standInClients,
    ...classicApplications,
  ],
  links: [...links, ...classicLinks],
};

/** What the plant's name server knows. */
export const addressBook: ReadonlyMap<string, readonly string[]> = new Map([
  ...[...machines, ...classicMachines, unknownMachine].map((known): [string, readonly string[]] => [
    known.hostNames[0] ?? known.id,
    known.addresses.slice(0, 1),
  ]),
  [host('lehr-both'), [inBlock('30.111'), inBlock('30.11')]] as [string, readonly string[]],
]);
