import { stepIds } from '@loyal-hinge/core';
import type { LinkAssessment, Plant } from '@loyal-hinge/core';
import type { LinkRow } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { readPlant } from '../plant/store.js';
import { heldByPeople } from '../processes/machine-locks.js';
import { allAssessments, openChecks } from './store.js';
import type { KeptAssessment } from './store.js';

/** All links, as the board shows them. */
export async function linkRows(db: Database): Promise<LinkRow[]> {
  const [plant, kept, open, holders] = await Promise.all([
    readPlant(db),
    allAssessments(db),
    openChecks(db),
    heldByPeople(db),
  ]);
  const ends = endsOf(plant);
  return plant.links.map((link) => {
    const assessed = kept.get(link.id) ?? null;
    const client = ends.get(link.clientId);
    const server = ends.get(link.serverId);
    const check = open.get(link.id);
    return {
      id: link.id,
      name: link.name,
      client: client?.name ?? link.clientId,
      clientZone: client?.zone ?? '',
      server: server?.name ?? link.serverId,
      serverZone: server?.zone ?? '',
      endpointUrl: link.endpointUrl,
      ...shownOf(assessed),
      checkId: check?.id ?? null,
      waitsFor: check?.state === 'queued' ? (holders.get(server?.machineId ?? '') ?? null) : null,
    };
  });
}

const untried = stepIds.map(() => 'unknown' as const);

function shownOf(
  kept: KeptAssessment | null,
): Pick<LinkRow, 'state' | 'headline' | 'partedAt' | 'leadingCause' | 'verdicts' | 'checkedAt'> {
  if (!kept)
    return {
      state: 'Untried',
      headline: 'This link has never been checked.',
      partedAt: null,
      leadingCause: null,
      verdicts: untried,
      checkedAt: null,
    };
  const { state, headline, partedAt, leadingCause, steps }: LinkAssessment = kept.body;
  return { state, headline, partedAt, leadingCause, verdicts: steps.map(({ verdict }) => verdict), checkedAt: kept.at };
}

/** Name, zone and machine of every application, by its id. */
export function endsOf(plant: Plant): ReadonlyMap<string, { name: string; zone: string; machineId: string }> {
  const zones = new Map(plant.zones.map((zone) => [zone.id, zone.name]));
  const zoneOfMachine = new Map(plant.machines.map((machine) => [machine.id, zones.get(machine.zoneId) ?? '']));
  return new Map(
    plant.applications.map(({ id, name, machineId }) => [
      id,
      { name, zone: zoneOfMachine.get(machineId) ?? '', machineId },
    ]),
  );
}
