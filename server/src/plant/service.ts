import { sql } from 'drizzle-orm';
import { plantDifference, plantFaults } from '@loyal-hinge/core';
import type { LinkKindId, Application, FirstStep, Link, Machine, Plant, Zone } from '@loyal-hinge/core';
import type { AnswerOf, Choosable, PlantChoices, PlantPage } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database, Queryable } from '../database/database.js';
import type { EventLog } from '../events/event-log.js';
import { conflict, invalid, notFound } from '../http/problems.js';
import { propose } from '../proposals/store.js';
import { firstStepsOf } from './first-steps.js';
import { choicesOf, plantViewOf } from './view.js';
import { machinesFromCsv } from './machines-csv.js';
import { settleSecrets } from './secret-owners.js';
import { readAround } from './part.js';
import { linkIdsIn, putApplication, putLink, putMachine, putZone, readPlant, removePart } from './store.js';
import { refuseContradictions } from './incoming.js';
import type { IncomingPlant } from './incoming.js';
import { replacePlant, takeIn } from './replace.js';
import type { Progress } from './replace.js';
import type { PlantPart } from './store.js';

type RowOfPlant = Zone | Machine | Application | Link;

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

  view = (wish: PlantPage): Promise<AnswerOf<'plantView'>> => plantViewOf(this.db, wish);
  choices = (of: Choosable, find?: string, speaks?: LinkKindId): Promise<PlantChoices> =>
    choicesOf(this.db, of, find, speaks);

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

  /** Replaces all of it, or nothing; how far it is, is told. */
  async replace(plant: IncomingPlant, actor: string): Promise<void> {
    const tell: Progress = (doing, done, total) =>
      this.events.tell({ kind: 'import-progress', by: actor, doing, done, total });
    const { links, machines } = plant.sizes;
    await this.changing(
      actor,
      'plant imported',
      plant.name,
      { links, machines },
      (tx) => replacePlant(tx, plant, tell),
      (tx) => takeIn(tx, plant, tell),
    );
    // What is searched is found before, too, only more slowly; and whoever imported needs not wait.
    void this.db.execute(sql`select settle_board()`).catch(() => undefined);
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

  /** What may contradict a part when it becomes `row`: whatever it stands on, and the links of an application. */
  private async partAround(part: PlantPart, id: string, row?: RowOfPlant): Promise<Omit<Plant, 'name'>> {
    const machineId = row && 'machineId' in row ? [row.machineId] : [];
    switch (part) {
      case 'zones':
        return readAround(this.db, {});
      case 'machines':
        return readAround(this.db, { machineIds: [id] });
      case 'applications':
        return readAround(this.db, {
          applicationIds: [id],
          machineIds: machineId,
          linkIds: await linkIdsIn(this.db, id),
        });
      case 'links':
        return readAround(this.db, {
          linkIds: [id],
          applicationIds: row && 'clientId' in row ? [row.clientId, row.serverId] : [],
        });
    }
  }

  async remove(part: PlantPart, id: string, actor: string): Promise<void> {
    const before = (await this.partAround(part, id))[part].find((row) => row.id === id);
    await this.changing(actor, `${words[part]} removed`, id, { before }, async (tx) => {
      const removed = await removePart(tx, part, id).catch((error: unknown) => {
        if (codeOf(error) === '23503')
          throw conflict(`The ${words[part]} “${id}” is still used.`, 'Remove what uses it first.');
        throw error;
      });
      if (!removed) throw notFound(words[part], id);
    });
  }

  /** Writes one row where the plant would still hold together with it. */
  private async put<Row extends RowOfPlant>(
    part: PlantPart,
    row: Row,
    actor: string,
    write: (tx: Queryable) => Promise<void>,
  ): Promise<Row> {
    const plant = { name: '', ...(await this.partAround(part, row.id, row)) };
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
    /** What is done before anybody has to wait. */
    prepare: (tx: Queryable) => Promise<void> = () => Promise.resolve(),
  ): Promise<void> {
    await this.db.transaction(async (tx) => {
      await prepare(tx);
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

function codeOf(error: unknown): string | null {
  for (let current: unknown = error; current instanceof Error; current = current.cause)
    if ('code' in current) return String(current.code);
  return null;
}
