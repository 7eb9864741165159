import {
  deviceNeedId,
  linkInPlant,
  openingToDevice,
  openingsOfService,
  openingsToRedundant,
  serviceNeedId,
  withPoints,
} from '@loyal-hinge/core';
import type { NeededFlows, Plant, Region } from '@loyal-hinge/core';
import type { LinkPassage } from '@loyal-hinge/contract';
import type { Queryable } from '../database/database.js';
import { readPlant } from '../plant/store.js';
import { knownPassage } from './known.js';
import type { KnownPassage } from './known.js';
import { judgedOpening, judgedOpenings } from './ways.js';
import type { JudgedOpening } from './ways.js';

/** What the plant needs openings for: a link, a service for one zone, or a server that asks a device behind it. */
export interface Need extends Pick<
  LinkPassage,
  'linkId' | 'link' | 'kind' | 'clientMachine' | 'serverMachine' | 'zoneIds'
> {
  judged(rulesOf?: KnownPassage['rulesOf']): readonly JudgedOpening[];
}

export interface KnownNeeds {
  readonly plant: Plant;
  readonly known: KnownPassage;
  readonly needs: readonly Need[];
}

export async function readNeeds(db: Queryable): Promise<KnownNeeds> {
  const [plant, known] = await Promise.all([readPlant(db), knownPassage(db)]);
  return { plant, known, needs: needsOf(plant, known) };
}

/** @param known by which rules, services and tunnels is judged */
export const needsOf = (plant: Plant, known: KnownPassage): readonly Need[] => [
  ...needsOfLinks(plant, known),
  ...needsOfServices(plant, known),
  ...needsOfDevices(plant, known),
];

const needsOfLinks = (plant: Plant, known: KnownPassage): readonly Need[] =>
  plant.links.flatMap(({ id }) => {
    const found = linkInPlant(plant, id);
    if (!('link' in found)) return [];
    const { link, clientMachine, serverMachine } = found;
    return {
      linkId: link.id,
      link: link.name,
      kind: link.kind,
      clientMachine: clientMachine.name,
      serverMachine: serverMachine.name,
      zoneIds: [clientMachine.zoneId, serverMachine.zoneId],
      judged: (rulesOf) => [
        ...judgedOpenings(known, found, [], rulesOf),
        ...openingsToRedundant(found, known.redundantOf(found.server.id)).flatMap(
          (opening) => judgedOpening(known, opening, rulesOf) ?? [],
        ),
      ],
    };
  });

function needsOfServices(plant: Plant, known: KnownPassage): readonly Need[] {
  const guarded = new Set(known.plan.devices.flatMap(({ machineId }) => machineId ?? []));
  return known.services.flatMap((service) =>
    openingsOfService(service, plant, guarded).map(({ zone, openings }) => {
      const host = plant.machines.find(({ id }) => id === service.machineId)?.name ?? service.machineId;
      const [from, to] = service.kind === 'management' ? [host, zone.name] : [zone.name, host];
      const [first] = openings;
      return {
        linkId: serviceNeedId(service.id, zone.id),
        link: `${service.name} for ${zone.name}`,
        kind: 'service',
        clientMachine: from,
        serverMachine: to,
        zoneIds: first ? [first.between.from.zoneId, first.between.to.zoneId] : [],
        judged: (rulesOf) => openings.flatMap((opening) => judgedOpening(known, opening, rulesOf) ?? []),
      };
    }),
  );
}

function needsOfDevices(plant: Plant, known: KnownPassage): readonly Need[] {
  const machineOf = (id: string) => plant.machines.find((machine) => machine.id === id);
  return known.asked.flatMap(({ serverId, deviceId, ports }) => {
    const server = plant.applications.find(({ id }) => id === serverId);
    const [from, device] = [server && machineOf(server.machineId), machineOf(deviceId)];
    if (!server || !from || !device || from.id === device.id) return [];
    return {
      linkId: deviceNeedId(serverId, deviceId),
      link: `${server.name} asks ${device.name}`,
      kind: 'device',
      clientMachine: from.name,
      serverMachine: device.name,
      zoneIds: [from.zoneId, device.zoneId],
      judged: (rulesOf) =>
        ports.flatMap((port) => judgedOpening(known, openingToDevice(from, device, port), rulesOf) ?? []),
    };
  });
}

/** A need with its openings, judged by the rules as they are. */
export interface JudgedNeed {
  readonly need: Need;
  readonly openings: readonly JudgedOpening[];
}
export const judgedNeed = (need: Need): JudgedNeed => ({ need, openings: need.judged() });

/** From whichever port: clients choose it. */
const asNeeded = (region: Region): Region => withPoints(region, 'sourcePort', null);

/** What is needed of one firewall, as it comes in there. */
export const neededAt = (firewallId: string, judged: readonly JudgedNeed[]): readonly NeededFlows[] =>
  judged.flatMap(({ need, openings }) =>
    openings.flatMap(({ hops }) =>
      hops
        .filter((hop) => hop.hop.device.id === firewallId)
        .map((hop) => ({ linkId: need.linkId, hook: hop.hop.hook, flows: hop.flows.map(asNeeded) })),
    ),
  );
