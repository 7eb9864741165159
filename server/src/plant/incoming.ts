import { plantFaults } from '@loyal-hinge/core';
import type { Application, Link, Machine, Plant, Zone } from '@loyal-hinge/core';
import { plainly, plantRows, unreadPlantDocument } from '@loyal-hinge/contract';
import type { PlantPartName } from '@loyal-hinge/contract';
import { faultsOf, mostFaults, parsedText } from '../http/parsed.js';
import { invalid } from '../http/problems.js';

/** What the plant is to become, row by row. */
export interface IncomingPlant {
  readonly name: string;
  /** How many rows there are of each part. */
  readonly sizes: Readonly<Record<PlantPartName, number>>;
  readonly zones: Iterable<Zone>;
  readonly machines: Iterable<Machine>;
  readonly applications: Iterable<Application>;
  readonly links: Iterable<Link>;
  /** To be called when all rows were taken. @throws ProblemError where any of them can’t be, or they contradict each other */
  refuse(): void;
}

export const wholePlant = (plant: Plant): IncomingPlant => ({
  ...plant,
  sizes: sizesOf(plant),
  refuse: () => refuseContradictions(plant),
});

/**
 * A document whose rows are looked at while they are taken, so that the database writes down the ones before meanwhile.
 * @throws ProblemError while rows are taken, once too many of them are wrong
 */
export function unreadPlant(text: string): IncomingPlant {
  const { plant: sent } = parsedText(unreadPlantDocument, text);
  const faults: { place: string; says: string }[] = [];
  const read = {
    zones: [] as Zone[],
    machines: [] as Machine[],
    applications: [] as Application[],
    links: [] as Link[],
  };
  const refuseFaults = (): void => {
    const [first] = faults;
    if (first) throw invalid(`${first.place}: ${first.says}`, faults.slice(0, mostFaults));
  };
  function* taken<Part extends PlantPartName>(part: Part): Generator<Plant[Part][number]> {
    for (const [index, row] of sent[part].entries()) {
      const found = plantRows[part].safeParse(row, { error: plainly });
      if (found.success) {
        (read[part] as unknown[]).push(found.data);
        yield found.data as Plant[Part][number];
      } else {
        for (const { place, says } of faultsOf(found.error, ''))
          faults.push({ place: ['plant', part, index, place].filter((one) => one !== '').join('.'), says });
        if (faults.length >= mostFaults) refuseFaults();
      }
    }
  }
  return {
    name: sent.name,
    sizes: sizesOf(sent),
    zones: taken('zones'),
    machines: taken('machines'),
    applications: taken('applications'),
    links: taken('links'),
    refuse: () => {
      refuseFaults();
      refuseContradictions({ name: sent.name, ...read });
    },
  };
}

const sizesOf = (rows: Readonly<Record<PlantPartName, readonly unknown[]>>): IncomingPlant['sizes'] => ({
  zones: rows.zones.length,
  machines: rows.machines.length,
  applications: rows.applications.length,
  links: rows.links.length,
});

export function refuseContradictions(plant: Plant): void {
  const faults = plantFaults(plant).map(({ subject, field, says }) => ({ place: `${subject}.${field}`, says }));
  if (faults.length > 0)
    throw invalid(`The file contradicts itself: ${faults[0]?.says ?? ''}`, faults.slice(0, mostFaults));
}
