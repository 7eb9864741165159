import { plantDifference, plantFaults } from '@loyal-hinge/core';
import type { Application, FirstStep, Link, Machine, Plant, Zone } from '@loyal-hinge/core';
import { appendAudit } from '../audit/trail.js';
import type { Database, Queryable } from '../database/database.js';
import type { EventLog } from '../events/event-log.js';
import { conflict, invalid, notFound } from '../http/problems.js';
import { forgetOrphanedAssessments } from '../links/store.js';
import { propose } from '../proposals/store.js';
import { firstStepsOf } from './first-steps.js';
import { machinesFromCsv } from './machines-csv.js';
import { settleSecrets } from './secret-owners.js';
import { linkIdsIn, putApplication, putLink, putMachine, putZone, readPlant, removePart, writePlant } from './store.js';
import type { PlantPart } from './store.js';

const words: Readonly<Record<PlantPart, string>> = {
  zones: 'zone',
  machines: 'machine',
  applications: 'application',
  links: 'link',
};

/** The plant: read, changed part by part, exported and imported as a whole. */
export class PlantKeeping {
  constructor(
    private readonly db: Database,
    private readonly events: Pick<EventLog, 'tell'>,
  ) {}

  firstSteps = (): Promise<readonly FirstStep[]> => firstStepsOf(this.db);

  /** Lets a second person decide whether the plant is replaced. @returns the proposal’s id */
  async proposeReplacing(plant: Plant, actor: string): Promise<string> {
    refuseContradictions(plant);
    const says = plantDifference(await readPlant(this.db), plant);
    return propose(
      this.db,
      { body: { kind: 'plant', plant }, title: `Replace the plant by ${plant.name}`, says },
      actor,
    );
  }

  async replace(plant: Plant, actor: string): Promise<void> {
    refuseContradictions(plant);
    await this.changing(
      actor,
      'plant imported',
      plant.name,
      { links: plant.links.length, machines: plant.machines.length },
      async (tx) => {
        await writePlant(tx, plant);
        await forgetOrphanedAssessments(tx);
      },
    );
  }

  async addMachines(csv: string, actor: string): Promise<number> {
    const { zones } = await readPlant(this.db, []);
    const read = machinesFromCsv(csv, zones);
    if (!read.ok)
      throw invalid(
        `${read.faults[0]?.place ?? ''}: ${read.faults[0]?.says ?? ''} Nothing was imported.`,
        read.faults.slice(0, 50),
      );
    await this.changing(actor, 'machines imported', 'machines', { machines: read.machines.length }, async (tx) => {
      for (const machine of read.machines) await putMachine(tx, machine);
    });
    return read.machines.length;
  }

  putZone = (zone: Zone, actor: string): Promise<Zone> => this.put('zones', zone, actor, (tx) => putZone(tx, zone));
  putMachine = (machine: Machine, actor: string): Promise<Machine> =>
    this.put('machines', machine, actor, (tx) => putMachine(tx, machine));
  putApplication = (application: Application, actor: string): Promise<Application> =>
    this.put('applications', application, actor, (tx) => putApplication(tx, application));
  putLink = (link: Link, actor: string): Promise<Link> => this.put('links', link, actor, (tx) => putLink(tx, link));

  /** Those links that may contradict a part when it changes. */
  private async linksAt(part: PlantPart, id: string): Promise<readonly string[]> {
    if (part === 'links') return [id];
    return part === 'applications' ? linkIdsIn(this.db, id) : [];
  }

  async remove(part: PlantPart, id: string, actor: string): Promise<void> {
    const before = (await readPlant(this.db, part === 'links' ? [id] : []))[part].find((row) => row.id === id);
    await this.changing(actor, `${words[part]} removed`, id, { before }, async (tx) => {
      const removed = await removePart(tx, part, id).catch((error: unknown) => {
        if (codeOf(error) === '23503')
          throw conflict(`The ${words[part]} “${id}” is still used.`, 'Remove what stands on it first.');
        throw error;
      });
      if (!removed) throw notFound(words[part], id);
      if (part === 'links') await forgetOrphanedAssessments(tx);
    });
  }

  /** Writes one row where the plant would still hold together with it. */
  private async put<Row extends { readonly id: string }>(
    part: PlantPart,
    row: Row,
    actor: string,
    write: (tx: Queryable) => Promise<void>,
  ): Promise<Row> {
    const plant = await readPlant(this.db, await this.linksAt(part, row.id));
    const rows = plant[part] as readonly { readonly id: string }[];
    const before = rows.find((other) => other.id === row.id);
    const after = { ...plant, [part]: [...rows.filter((other) => other.id !== row.id), row] };
    const faults = plantFaults(after).map(({ field, says }) => ({ place: field, says }));
    if (faults.length > 0) throw invalid(faults[0]?.says ?? '', faults);
    await this.changing(actor, `${words[part]} ${before ? 'changed' : 'added'}`, row.id, { before, after: row }, write);
    return row;
  }

  private async changing(
    actor: string,
    action: string,
    subject: string,
    details: Record<string, unknown>,
    write: (tx: Queryable) => Promise<void>,
  ): Promise<void> {
    await this.db.transaction(async (tx) => {
      await appendAudit(tx, {
        actor,
        action,
        subject,
        details: JSON.parse(JSON.stringify(details)) as Record<string, unknown>,
      });
      await write(tx);
      await settleSecrets(tx, actor);
    });
    await this.events.tell({ kind: 'plant-changed' });
  }
}

function refuseContradictions(plant: Plant): void {
  const faults = plantFaults(plant).map(({ subject, field, says }) => ({ place: `${subject}.${field}`, says }));
  if (faults.length > 0) throw invalid(`The file contradicts itself: ${faults[0]?.says ?? ''}`, faults.slice(0, 50));
}

function codeOf(error: unknown): string | null {
  for (let current: unknown = error; current instanceof Error; current = current.cause)
    if ('code' in current) return String(current.code);
  return null;
}
