import type { Logger } from 'pino';
import { stageOf, targetOf, undoOf, wayWords } from '@loyal-hinge/core';
import type { TrustChange } from '@loyal-hinge/core';
import type { WorkOrder } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import { persist } from '../database/database.js';
import type { Database } from '../database/database.js';
import type { EventLog } from '../events/event-log.js';
import { ProblemError, conflict, invalid, notFound } from '../http/problems.js';
import type { Actor } from '../http/serve.js';
import type { Links } from '../links/service.js';
import { authoritiesHere } from '../trust/authorities/store.js';
import type { Carried, TrustCarrier } from '../trust/carrier.js';
import type { CertificateRenewal } from '../trust/renewal.js';
import { clientsHeld, wayOf } from '../trust/store.js';
import { isSignedHere } from './service.js';
import type { WorkOrders } from './service.js';
import { findOrder, linesOf, moveLines, moveOrder, releaseOrder } from './store.js';
import type { LineRow } from './store.js';

/** Lines of one target that follow each other: they are written together, so that a server is restarted once. */
interface Batch {
  readonly target: string;
  /** What gives trust, then new certificates, then what takes trust away. */
  readonly stage: number;
  readonly lines: readonly LineRow[];
}

/** How long an order keeps trying to write down what it did while the database is away. */
const patienceMs = 5 * 60_000;

/** Carries work orders out, line by line, in the background of the call that asked for it. */
export class OrderCarrier {
  private readonly running = new Map<string, Promise<void>>();

  constructor(
    private readonly db: Database,
    private readonly orders: WorkOrders,
    private readonly carrier: TrustCarrier,
    private readonly renewal: CertificateRenewal,
    private readonly links: Pick<Links, 'askAfresh'>,
    private readonly events: EventLog,
    private readonly logger: Logger,
  ) {}

  /** Begins with an approved order, or goes on with one that stopped at a failure. */
  async begin(id: string, passphrase: string | undefined, actor: Actor): Promise<WorkOrder> {
    const order = await findOrder(this.db, id);
    if (!order) throw notFound('work order', id);
    if (this.running.has(id)) throw conflict('This order is being carried out.', 'Watch its lines.');
    const lines = await linesOf(this.db, id);
    const open = lines.filter(({ state }) => state === 'waiting' || state === 'failed');
    const signers = await authoritiesHere(this.db);
    if (open.some(({ change }) => isSignedHere(change, signers)) && passphrase === undefined)
      throw invalid('An authority must sign for this order, so its passphrase is needed.', [
        { place: 'passphrase', says: 'It is used once and never kept.' },
      ]);
    await this.db.transaction(async (tx) => {
      if (!(await moveOrder(tx, id, ['approved', 'running', 'done'], { state: 'running' })))
        throw conflict('Only an approved order is carried out.', 'Have it approved first.');
      await appendAudit(tx, {
        actor: actor.name,
        action: 'work order carried out',
        subject: id,
        details: { lines: open.length },
      });
    });
    const work = this.work(id, open, passphrase ?? '', actor.name)
      .catch(async (error: unknown) => {
        this.logger.error({ err: error, orderId: id }, 'a work order stopped');
        await persist(patienceMs, () => releaseOrder(this.db, id));
      })
      .finally(() => this.running.delete(id));
    this.running.set(id, work);
    return this.orders.one(id);
  }

  /** Waits for what is being carried out; called before the server stops. */
  async settle(): Promise<void> {
    await Promise.all(this.running.values());
  }

  /** A person says that a line is done at the machine, and with it all that goes to the same machine in one bundle. */
  async doneByHand(id: string, position: number, actor: Actor): Promise<WorkOrder> {
    const lines = await linesOf(this.db, id);
    const asked = lines.find((line) => line.position === position);
    if (!asked) throw notFound('line', String(position));
    const together = lines.filter(({ change }) => targetOf(change) === targetOf(asked.change));
    const positions = together.map((line) => line.position);
    await this.db.transaction(async (tx) => {
      const at = new Date().toISOString();
      const says = `${actor.name} says that it is done.`;
      const moved = await moveLines(tx, id, positions, ['by hand'], { state: 'done', says, by: actor.name, at });
      if (moved.length === 0) throw conflict('This line does not wait for a person.', 'Look at how it stands now.');
      await appendAudit(tx, { actor: actor.name, action: 'lines done by hand', subject: id, details: { positions } });
    });
    await this.askForChecks([...new Set(together.flatMap(({ linkIds }) => linkIds))], actor.name);
    await this.orders.prove(id);
    return this.orders.one(id);
  }

  /** Carries the way back of a line out. */
  async undo(id: string, position: number, actor: Actor): Promise<WorkOrder> {
    const line = (await linesOf(this.db, id)).find((row) => row.position === position);
    if (!line) throw notFound('line', String(position));
    const change = undoOf(line.change);
    if (!change)
      throw conflict(
        'The way back of this line is not a change that the product can make.',
        'See the history of the lists.',
      );
    if (line.state !== 'done' && line.state !== 'proved')
      throw conflict('This line was not carried out.', 'There is nothing to undo.');
    const { says } = await this.carry(targetOf(change), [change], '', actor.name);
    await this.db.transaction(async (tx) => {
      await moveLines(tx, id, [position], ['done', 'proved'], {
        state: 'undone',
        says: `Undone. ${says}`,
        by: actor.name,
        at: new Date().toISOString(),
        provedAt: null,
      });
      await appendAudit(tx, { actor: actor.name, action: 'line undone', subject: id, details: { position } });
    });
    await this.askForChecks(line.linkIds, actor.name);
    await this.orders.prove(id);
    return this.orders.one(id);
  }

  private async work(id: string, open: readonly LineRow[], passphrase: string, actor: string): Promise<void> {
    let complete = await this.isGivingDone(id);
    for (const batch of batchesOf(open)) {
      // Nothing is renewed or taken away while what should let it in, or take its place, is not there.
      if (!complete && batch.stage > 0) break;
      complete = (await this.carryOut(id, batch, passphrase, actor)) && complete;
      await this.tell(id);
    }
    await persist(patienceMs, () => this.orders.prove(id));
    await persist(patienceMs, () => this.db.transaction((tx) => moveOrder(tx, id, ['running'], { state: 'approved' })));
    await this.askForChecks([...new Set(open.flatMap(({ linkIds }) => linkIds))], actor);
    await this.tell(id);
  }

  private tell(orderId: string): Promise<void> {
    return persist(patienceMs, () => this.events.tell({ kind: 'order-changed', orderId }));
  }

  /** False where a line that gives trust still waits for a person. */
  private async isGivingDone(id: string): Promise<boolean> {
    return (await linesOf(this.db, id)).every(({ state, change }) => state !== 'by hand' || stageOf(change) > 0);
  }

  /** One batch: claimed, carried out, and noted; true where it is done. */
  private async carryOut(id: string, { target, lines }: Batch, passphrase: string, actor: string): Promise<boolean> {
    const positions = lines.map(({ position }) => position);
    const at = new Date().toISOString();
    if (await this.isByHand(target)) {
      const says = `It goes ${wayWords[(await wayOf(this.db, target))?.way ?? 'unknown']}. Fetch the bundle, take it there, then say that it is done.`;
      await moveLines(this.db, id, positions, ['waiting', 'failed'], { state: 'by hand', says, by: actor, at });
      return false;
    }
    const claimed = await persist(patienceMs, () =>
      moveLines(this.db, id, positions, ['waiting', 'failed'], { state: 'claimed', by: actor, at }),
    );
    if (claimed.length === 0) return true;
    await this.tell(id);
    try {
      const changes = claimed.map(({ change }) => change);
      const { says, restarted } = await this.carry(target, changes, passphrase, actor);
      await persist(patienceMs, () =>
        this.db.transaction(async (tx) => {
          await moveLines(tx, id, positions, ['claimed'], { state: 'done', says, restarted });
          await appendAudit(tx, {
            actor,
            action: 'lists changed',
            subject: target,
            details: { order: id, lines: positions },
          });
        }),
      );
      return true;
    } catch (error) {
      if (!(error instanceof ProblemError)) this.logger.error({ err: error, orderId: id, target }, 'a line failed');
      const says =
        error instanceof ProblemError
          ? `${error.problem.detail} ${error.problem.remedy}`
          : 'The server met an error. Read the lists of the target, then carry it out again.';
      await persist(patienceMs, () => moveLines(this.db, id, positions, ['claimed'], { state: 'failed', says }));
      return false;
    }
  }

  private async carry(
    target: string,
    changes: readonly TrustChange[],
    passphrase: string,
    actor: string,
  ): Promise<Carried> {
    const [first] = changes;
    switch (first?.kind) {
      case 'renew-certificate':
        return this.renewal.renew(target, first.authority, passphrase, actor);
      case 'install-certificate':
        return this.renewal.install(target, first.thumbprint, actor);
      default:
        return this.carrier.change(target, changes, actor);
    }
  }

  private async isByHand(target: string): Promise<boolean> {
    const [held, way] = await Promise.all([clientsHeld(this.db), wayOf(this.db, target)]);
    return !held.has(target) && way?.way !== 'push';
  }

  private async askForChecks(linkIds: readonly string[], actor: string): Promise<void> {
    await this.links
      .askAfresh(linkIds, actor)
      .catch((error: unknown) => this.logger.warn({ err: error }, 'links could not be checked after a change'));
  }
}

/** Lines in their order, those of the same target and kind of step together. */
export function batchesOf(lines: readonly LineRow[]): readonly Batch[] {
  const batches = new Map<string, { target: string; stage: number; lines: LineRow[] }>();
  for (const line of lines) {
    const target = targetOf(line.change);
    const stage = stageOf(line.change);
    const key = `${stage} ${target}`;
    const known = batches.get(key) ?? { target, stage, lines: [] };
    known.lines.push(line);
    batches.set(key, known);
  }
  return [...batches.values()].sort((left, right) => left.stage - right.stage);
}
