import { randomUUID } from 'node:crypto';
import { orderedSafely } from '@loyal-hinge/core';
import type { ProposedOrder, WorkOrder, WorkOrderRow, WorkOrderState } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database } from '../database/database.js';
import type { EventLog } from '../events/event-log.js';
import type { Runs } from '../heavy/jobs.js';
import type { Actor } from '../http/serve.js';
import { conflict, notFound } from '../http/problems.js';
import type { OrderJobs } from './jobs.js';
import { headOf } from './shown.js';
import { wantsAnother } from '../proposals/wants-another.js';
import { addOrder, allOrders, countLines, findOrder, linesOf, moveLines, moveOrder, ordersDoneAt } from './store.js';
import type { LineRow } from './store.js';

/** Work orders: what is proposed, approved, withdrawn, and how it stands. Carrying out has a room of its own. */
export class WorkOrders {
  constructor(
    private readonly db: Database,
    private readonly heavy: Runs<OrderJobs>,
    private readonly events: EventLog,
  ) {}

  async rows(): Promise<WorkOrderRow[]> {
    const [orders, counts] = await Promise.all([allOrders(this.db), countLines(this.db)]);
    return orders.map((order) => {
      const own = counts.filter(({ orderId }) => orderId === order.id);
      const linesIn = (...states: readonly LineRow['state'][]): number =>
        own.filter(({ state }) => states.includes(state)).reduce((sum, { lines }) => sum + lines, 0);
      const lines = own.reduce((sum, counted) => sum + counted.lines, 0);
      return { ...headOf(order), lines, done: linesIn('done', 'proved'), failed: linesIn('failed') };
    });
  }

  one = (id: string): Promise<WorkOrder> => this.heavy.run('order', { id });

  /** What gives trust comes first, what takes it away last. */
  async propose({ title, lines }: ProposedOrder, actor: Actor): Promise<WorkOrder> {
    const id = randomUUID();
    const withBefore = await this.heavy.run('linesAsTheyLie', { lines });
    await this.db.transaction(async (tx) => {
      await appendAudit(tx, {
        actor: actor.name,
        action: 'work order proposed',
        subject: id,
        details: { title, lines: lines.length },
      });
      await addOrder(tx, { id, title, proposedBy: actor.name }, [...orderedSafely(withBefore)]);
    });
    await this.events.tell({ kind: 'order-changed', orderId: id });
    return this.one(id);
  }

  /** By another person than the one who proposed it, where the plant says so. */
  async approve(id: string, actor: Actor): Promise<WorkOrder> {
    const order = await findOrder(this.db, id);
    if (!order) throw notFound('work order', id);
    if ((await wantsAnother(this.db)) && order.proposedBy === actor.name)
      throw conflict(
        'This plant requires another person to approve than the one who proposed.',
        'Ask an approver; the order stays as it is.',
      );
    return this.decide(id, ['proposed'], 'approved', actor);
  }

  withdraw(id: string, actor: Actor): Promise<WorkOrder> {
    return this.decide(id, ['proposed', 'approved'], 'withdrawn', actor);
  }

  private async decide(
    id: string,
    from: readonly WorkOrderState[],
    state: 'approved' | 'withdrawn',
    actor: Actor,
  ): Promise<WorkOrder> {
    await this.db.transaction(async (tx) => {
      const decidedAt = new Date().toISOString();
      if (!(await moveOrder(tx, id, from, { state, decidedBy: actor.name, decidedAt })))
        throw conflict(`This order can’t be ${state} any more.`, 'Check the present state.');
      await appendAudit(tx, { actor: actor.name, action: `work order ${state}`, subject: id, details: {} });
    });
    await this.events.tell({ kind: 'order-changed', orderId: id });
    return this.one(id);
  }

  /** Lists were read: whatever waits for its proof is looked at. */
  async proveAll(): Promise<void> {
    const counts = await countLines(this.db);
    for (const { orderId, state } of counts) if (state === 'done') await this.prove(orderId);
  }

  /** It was seen how something stands that lines change: those that wait for their proof are looked at. */
  async proveAbout(subjectId: string): Promise<void> {
    for (const orderId of await ordersDoneAt(this.db, subjectId)) await this.prove(orderId);
  }

  /** Looks at what is known now, and marks those lines proved whose change holds; the order is proved when all are. */
  async prove(id: string): Promise<void> {
    const holding = await this.heavy.run('linesThatHold', { id });
    await this.db.transaction(async (tx) => {
      await moveLines(tx, id, holding, ['done'], { state: 'proved', provedAt: new Date().toISOString() });
      const now = await linesOf(tx, id);
      const all = (...states: readonly LineRow['state'][]): boolean => now.every(({ state }) => states.includes(state));
      if (all('proved', 'undone')) await moveOrder(tx, id, ['approved', 'running', 'done'], { state: 'proved' });
      else if (all('proved', 'undone', 'done')) await moveOrder(tx, id, ['approved', 'running'], { state: 'done' });
    });
    await this.events.tell({ kind: 'order-changed', orderId: id });
  }
}
