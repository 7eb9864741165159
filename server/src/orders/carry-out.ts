import type { Logger } from 'pino';
import { stageOfChange } from '@loyal-hinge/core';
import type { WorkOrder } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import { persist } from '../database/database.js';
import type { Database } from '../database/database.js';
import type { EventLog } from '../events/event-log.js';
import { ProblemError, conflict, invalid, notFound } from '../http/problems.js';
import type { Actor } from '../http/serve.js';
import type { ServerProcess } from '../processes/server-process.js';
import { batchesOf, byCapability, isDoneAtOnce } from './batches.js';
import type { Batch } from './batches.js';
import type { ChangeDesk, ChangeDesks, Gate, OrderAtWork } from './port.js';
import type { WorkOrders } from './service.js';
import { claimLines, findOrder, linesOf, moveLines, moveOrder, releaseInterrupted, releaseOrder } from './store.js';
import type { LineRow } from './store.js';

/** How long an order keeps trying to write down what it did while the database is away. */
const patienceMs = 5 * 60_000;

const isBeingCarriedOut = () => conflict('This order is being carried out.', 'Watch its lines.');

/** Carries work orders out, line by line, in the background of the call that asked for it. */
export class OrderCarrier {
  private readonly running = new Map<string, Promise<void>>();
  /** Orders that this process has begun, or is about to. */
  private readonly atWork = new Set<string>();
  private readonly stopping = new AbortController();

  constructor(
    private readonly db: Database,
    private readonly server: Pick<ServerProcess, 'id'>,
    private readonly orders: WorkOrders,
    private readonly desks: ChangeDesks,
    /** Links are checked afresh after what was done for them. */
    private readonly askForChecks: (linkIds: readonly string[], actor: string) => Promise<void>,
    private readonly events: EventLog,
    private readonly logger: Logger,
  ) {}

  /** Begins with an approved order, or goes on with one that stopped at a failure. */
  async begin(id: string, passphrase: string | undefined, actor: Actor): Promise<WorkOrder> {
    const order = await findOrder(this.db, id);
    if (!order) throw notFound('work order', id);
    const lines = await linesOf(this.db, id);
    const open = lines.filter(({ state }) => state === 'waiting' || state === 'failed');
    if (passphrase === undefined && (await this.needPassphrase(open)))
      throw invalid('An authority must sign for this order, so its passphrase is needed.', [
        { place: 'passphrase', says: 'It is used once and never stored.' },
      ]);
    if (this.atWork.has(id)) throw isBeingCarriedOut();
    this.atWork.add(id);
    try {
      await this.noteBegun(id, open.length, actor);
    } catch (error) {
      this.atWork.delete(id);
      throw error;
    }
    const work = this.work(id, open, passphrase ?? '', actor.name)
      .catch(async (error: unknown) => {
        if (!this.stopping.signal.aborted) this.logger.error({ err: error, orderId: id }, 'a work order stopped');
        await persist(patienceMs, () => releaseOrder(this.db, id));
      })
      .finally(() => {
        this.running.delete(id);
        this.atWork.delete(id);
      });
    this.running.set(id, work);
    return this.orders.one(id);
  }

  private async needPassphrase(lines: readonly LineRow[]): Promise<boolean> {
    for (const [capability, own] of byCapability(lines))
      if (await this.desks[capability].needPassphrase(own.map(({ change }) => change))) return true;
    return false;
  }

  private noteBegun(id: string, lines: number, actor: Actor): Promise<void> {
    return this.db.transaction(async (tx) => {
      if (!(await moveOrder(tx, id, ['approved', 'done'], { state: 'running', serverId: this.server.id })))
        throw (await findOrder(tx, id))?.state === 'running'
          ? isBeingCarriedOut()
          : conflict('Only an approved order is carried out.', 'Have it approved first.');
      await appendAudit(tx, { actor: actor.name, action: 'work order carried out', subject: id, details: { lines } });
    });
  }

  /** Releases what a process that is gone left in the middle, and what this one began without ever hearing that it had. */
  releaseInterrupted(): Promise<void> {
    return releaseInterrupted(this.db, { serverId: this.server.id, isAtWork: (id) => this.atWork.has(id) });
  }

  /** Waits for what is being carried out, and no longer for its proof; called before the server stops. */
  async settle(): Promise<void> {
    this.stopping.abort();
    await Promise.all(this.running.values());
  }

  /** A person says that a line is done at the machine, and with it all that is done there at once. */
  async doneByHand(id: string, position: number, actor: Actor): Promise<WorkOrder> {
    const lines = await linesOf(this.db, id);
    const asked = lines.find((line) => line.position === position);
    if (!asked) throw notFound('line', String(position));
    const together = lines.filter(({ change }) => isDoneAtOnce(asked.change, change));
    const positions = together.map((line) => line.position);
    await this.db.transaction(async (tx) => {
      const at = new Date().toISOString();
      const says = `${actor.name} marked it as done.`;
      const moved = await moveLines(tx, id, positions, ['by hand'], { state: 'done', says, by: actor.name, at });
      if (moved.length === 0) throw conflict('This line does not wait for a person.', 'Check the present state.');
      await appendAudit(tx, { actor: actor.name, action: 'lines done by hand', subject: id, details: { positions } });
    });
    for (const [capability, own] of byCapability(together.filter(({ state }) => state === 'by hand')))
      await this.desks[capability].afterHand?.(
        own.map(({ change }) => change),
        actor.name,
      );
    await this.askForChecks([...new Set(together.flatMap(({ linkIds }) => linkIds))], actor.name);
    await this.orders.prove(id);
    return this.orders.one(id);
  }

  private async work(id: string, open: readonly LineRow[], passphrase: string, actor: string): Promise<void> {
    const heldBackBy = await this.gatesOf(id, actor);
    for (const batch of batchesOf(open)) {
      const waits = await heldBackBy(batch);
      if (waits === null) await this.carryOut(id, batch, passphrase, actor);
      else await this.holdBack(id, batch, waits);
      await this.tell(id);
    }
    await persist(patienceMs, () => this.orders.prove(id));
    // Where an order runs no longer, the checks that it asks for are asked for.
    await this.askForChecks([...new Set(open.flatMap(({ linkIds }) => linkIds))], actor);
    await persist(patienceMs, () => this.db.transaction((tx) => moveOrder(tx, id, ['running'], { state: 'approved' })));
    await this.tell(id);
  }

  /** Each capability tells what holds its own lines back. */
  private async gatesOf(id: string, actor: string): Promise<(batch: Batch) => Promise<string | null>> {
    const order = await persist(patienceMs, () => findOrder(this.db, id));
    const atWork: OrderAtWork = {
      decidedAt: new Date(order?.decidedAt ?? Date.now()).toISOString(),
      actor,
      signal: this.stopping.signal,
      linesNow: async () => {
        await persist(patienceMs, () => this.orders.prove(id));
        return persist(patienceMs, () => linesOf(this.db, id));
      },
      sayWaiting: (stage, says) => this.sayWaiting(id, stage, says),
    };
    const gates = new Map<ChangeDesk, Promise<Gate>>();
    return async (batch) => {
      const desk = this.desks[batch.capability];
      const gate = gates.get(desk) ?? desk.gate(atWork);
      gates.set(desk, gate);
      return (await gate).heldBackBy(batch);
    };
  }

  private async sayWaiting(id: string, stage: Batch['stage'], says: string): Promise<void> {
    const lines = await persist(patienceMs, () => linesOf(this.db, id));
    const positions = lines.filter(({ change }) => stageOfChange(change) === stage).map(({ position }) => position);
    await persist(patienceMs, () => moveLines(this.db, id, positions, ['waiting'], { state: 'waiting', says }));
    await this.tell(id);
  }

  private async holdBack(id: string, { lines }: Batch, says: string): Promise<void> {
    const positions = lines.map(({ position }) => position);
    await persist(patienceMs, () =>
      moveLines(this.db, id, positions, ['waiting', 'failed'], { state: 'waiting', says }),
    );
  }

  private tell(orderId: string): Promise<void> {
    return persist(patienceMs, () => this.events.tell({ kind: 'order-changed', orderId }));
  }

  /** One batch: claimed, carried out, and noted. */
  private async carryOut(
    id: string,
    { capability, target, lines }: Batch,
    passphrase: string,
    actor: string,
  ): Promise<void> {
    const positions = lines.map(({ position }) => position);
    const at = new Date().toISOString();
    const desk = this.desks[capability];
    const says = await desk.byHand(
      target,
      lines.map(({ change }) => change),
    );
    if (says !== null) {
      await moveLines(this.db, id, positions, ['waiting', 'failed'], { state: 'by hand', says, by: actor, at });
      return;
    }
    const claim = { by: actor, at, serverId: this.server.id };
    const claimed = await persist(patienceMs, () => claimLines(this.db, id, positions, claim));
    if (claimed.length === 0) return;
    await this.tell(id);
    try {
      const changes = claimed.map(({ change }) => change);
      const {
        says,
        restarted,
        idle = [],
      } = await desk.carry({ target, changes, passphrase, actor, forLine: `${id}/${positions[0] ?? 0}` });
      await persist(patienceMs, () =>
        this.db.transaction(async (tx) => {
          const moved = await moveLines(tx, id, positions, ['claimed'], { state: 'done', says, restarted });
          // Nothing moves where the answer to the same words was lost with its connection: it is written down then.
          if (moved.length === 0) return;
          const idleAt = claimed.filter(({ change }) => idle.includes(change)).map(({ position }) => position);
          await moveLines(tx, id, idleAt, ['done'], { state: 'done', wrote: false });
          await appendAudit(tx, {
            actor,
            action: desk.action,
            subject: target,
            details: { order: id, lines: positions },
          });
        }),
      );
    } catch (error) {
      if (!(error instanceof ProblemError)) this.logger.error({ err: error, orderId: id, target }, 'a line failed');
      const says =
        error instanceof ProblemError
          ? `${error.problem.detail} ${error.problem.remedy}`
          : 'The server met an error. Read the lists of the target, then carry it out again.';
      await persist(patienceMs, () => moveLines(this.db, id, positions, ['claimed'], { state: 'failed', says }));
    }
  }
}
