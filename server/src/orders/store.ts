import { and, asc, desc, eq, inArray } from 'drizzle-orm';
import type { OrderLineState, ProposedOrder, WorkOrderState } from '@loyal-hinge/contract';
import type { Queryable } from '../database/database.js';
import { orderLines, workOrders } from '../database/schema.js';

export type OrderRow = typeof workOrders.$inferSelect;
export type LineRow = typeof orderLines.$inferSelect;

export async function addOrder(
  tx: Queryable,
  order: { readonly id: string; readonly title: string; readonly proposedBy: string },
  lines: ProposedOrder['lines'],
): Promise<void> {
  await tx.insert(workOrders).values({ ...order, state: 'proposed' });
  const rows = lines.map(({ change, why, linkIds }, index) => ({
    orderId: order.id,
    position: index + 1,
    change,
    why,
    linkIds,
    state: 'waiting' as const,
  }));
  for (let start = 0; start < rows.length; start += 1000)
    await tx.insert(orderLines).values(rows.slice(start, start + 1000));
}

export const allOrders = (db: Queryable): Promise<OrderRow[]> =>
  db.select().from(workOrders).orderBy(desc(workOrders.proposedAt));

export async function findOrder(db: Queryable, id: string): Promise<OrderRow | null> {
  const [row] = await db.select().from(workOrders).where(eq(workOrders.id, id));
  return row ?? null;
}

export const linesOf = (db: Queryable, orderId: string): Promise<LineRow[]> =>
  db.select().from(orderLines).where(eq(orderLines.orderId, orderId)).orderBy(asc(orderLines.position));

export const allLines = (db: Queryable): Promise<Pick<LineRow, 'orderId' | 'state'>[]> =>
  db.select({ orderId: orderLines.orderId, state: orderLines.state }).from(orderLines);

/** Moves an order on; false where it was not in one of the states that it may come from. */
export async function moveOrder(
  tx: Queryable,
  id: string,
  from: readonly WorkOrderState[],
  to: Partial<Pick<OrderRow, 'decidedBy' | 'decidedAt'>> & { readonly state: WorkOrderState },
): Promise<boolean> {
  const moved = await tx
    .update(workOrders)
    .set(to)
    .where(and(eq(workOrders.id, id), inArray(workOrders.state, [...from])))
    .returning({ id: workOrders.id });
  return moved.length > 0;
}

/** Moves lines on, and gives those that were in a state that they may come from: what is claimed once is claimed by nobody else. */
export async function moveLines(
  tx: Queryable,
  orderId: string,
  positions: readonly number[],
  from: readonly OrderLineState[],
  to: Partial<Pick<LineRow, 'says' | 'restarted' | 'by' | 'at' | 'provedAt'>> & { readonly state: OrderLineState },
): Promise<LineRow[]> {
  if (positions.length === 0) return [];
  return tx
    .update(orderLines)
    .set(to)
    .where(
      and(
        eq(orderLines.orderId, orderId),
        inArray(orderLines.position, [...positions]),
        inArray(orderLines.state, [...from]),
      ),
    )
    .returning();
}

/** Lines of orders that stand, and that are not carried out yet. */
export const openLinesFor = (db: Queryable): Promise<Pick<LineRow, 'change'>[]> =>
  db
    .select({ change: orderLines.change })
    .from(orderLines)
    .innerJoin(workOrders, eq(workOrders.id, orderLines.orderId))
    .where(
      and(
        inArray(workOrders.state, ['approved', 'running']),
        inArray(orderLines.state, ['waiting', 'failed', 'by hand']),
      ),
    )
    .orderBy(asc(orderLines.orderId), asc(orderLines.position));

const released = {
  state: 'waiting',
  says: 'It was cut off while it was carried out. Carry it out again: what holds already is left as it is.',
} as const;

/** Lines that a stopped server left in the middle go back to waiting: their changes say how it shall be, so that carrying them out again does nothing twice. */
export async function releaseClaimed(db: Queryable): Promise<void> {
  await db.update(orderLines).set(released).where(eq(orderLines.state, 'claimed'));
  await db.update(workOrders).set({ state: 'approved' }).where(eq(workOrders.state, 'running'));
}

/** The same for one order. */
export async function releaseOrder(db: Queryable, id: string): Promise<void> {
  const claimed = and(eq(orderLines.orderId, id), eq(orderLines.state, 'claimed'));
  await db.update(orderLines).set(released).where(claimed);
  await db
    .update(workOrders)
    .set({ state: 'approved' })
    .where(and(eq(workOrders.id, id), eq(workOrders.state, 'running')));
}
