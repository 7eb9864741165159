import { and, asc, count, desc, eq, inArray, or, sql } from 'drizzle-orm';
import type { ChangeMadeFact, OrderChange } from '@loyal-hinge/core';
import type { OrderLineState, ProposedOrder, WorkOrderState } from '@loyal-hinge/contract';
import type { Queryable } from '../database/database.js';
import { orderLines, workOrders } from '../database/schema.js';
import { ofNoProcess } from '../processes/of-no-process.js';

export type OrderRow = typeof workOrders.$inferSelect;
export type LineRow<Change extends OrderChange = OrderChange> = Omit<typeof orderLines.$inferSelect, 'change'> & {
  readonly change: Change;
};

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

/** How many lines each order has, by state. */
export const countLines = (db: Queryable): Promise<(Pick<LineRow, 'orderId' | 'state'> & { lines: number })[]> =>
  db
    .select({ orderId: orderLines.orderId, state: orderLines.state, lines: count() })
    .from(orderLines)
    .groupBy(orderLines.orderId, orderLines.state);

/** Moves an order on; false where it was not in one of the states that it may come from. */
export async function moveOrder(
  tx: Queryable,
  id: string,
  from: readonly WorkOrderState[],
  to: Partial<Pick<OrderRow, 'decidedBy' | 'decidedAt' | 'serverId'>> & { readonly state: WorkOrderState },
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
  to: Partial<Pick<LineRow, 'says' | 'restarted' | 'wrote' | 'by' | 'at' | 'provedAt' | 'serverId'>> & {
    readonly state: OrderLineState;
  },
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

/** A process claims what is still open of lines, and gets it; asked twice, since an answer may be lost: its own claims are its own. */
export const claimLines = (
  db: Queryable,
  orderId: string,
  positions: readonly number[],
  to: { readonly by: string; readonly at: string; readonly serverId: string },
): Promise<LineRow[]> =>
  db
    .update(orderLines)
    .set({ ...to, state: 'claimed' })
    .where(
      and(
        eq(orderLines.orderId, orderId),
        inArray(orderLines.position, [...positions]),
        or(
          inArray(orderLines.state, ['waiting', 'failed']),
          and(eq(orderLines.state, 'claimed'), eq(orderLines.serverId, to.serverId)),
        ),
      ),
    )
    .returning();

/** Orders with lines that were carried out at a server, and are not proved. */
/** Orders with lines that wait for their proof, and are about a server, an outpost or a link. */
export async function ordersDoneAt(db: Queryable, subjectId: string): Promise<readonly string[]> {
  const rows = await db
    .select({ orderId: orderLines.orderId })
    .from(orderLines)
    .where(
      and(
        eq(orderLines.state, 'done'),
        sql`${subjectId} in (${orderLines.change}->>'serverId', ${orderLines.change}->>'outpostId', ${orderLines.change}->>'linkId')`,
      ),
    )
    .groupBy(orderLines.orderId);
  return rows.map(({ orderId }) => orderId);
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

/** The newest change of an application’s lists that was carried out, one that is not proved first; null where there is none. */
export async function newestChangeOf(
  db: Queryable,
  applicationId: string,
): Promise<Omit<ChangeMadeFact, 'kind'> | null> {
  const [row] = await db
    .select()
    .from(orderLines)
    .where(
      and(inArray(orderLines.state, ['done', 'proved']), sql`${orderLines.change}->>'holderId' = ${applicationId}`),
    )
    .orderBy(asc(orderLines.state), desc(orderLines.at))
    .limit(1);
  if (!row?.at) return null;
  const { why: says, state } = row;
  return { says, since: new Date(row.at).toISOString(), by: row.by ?? 'somebody', inLists: state === 'proved' };
}

/** When an application was last changed by a line, proved or not; null: never. Lists that were read before that are not as they are now. */
export async function lastChangeOf(db: Queryable, applicationId: string): Promise<string | null> {
  const [row] = await db
    .select({ at: orderLines.at })
    .from(orderLines)
    .where(
      and(
        inArray(orderLines.state, ['done', 'proved', 'undone']),
        sql`${orderLines.change}->>'holderId' = ${applicationId}`,
      ),
    )
    .orderBy(desc(orderLines.at))
    .limit(1);
  return row?.at ? new Date(row.at).toISOString() : null;
}

const released = {
  state: 'waiting',
  says: 'It was cut off while it was carried out. Carry it out again: what holds already is left as it is.',
} as const;

/**
 * Lines that a process which is gone left in the middle go back to waiting: their changes say how it shall be, so that
 * carrying them out again does nothing twice. So do orders that this process (`serverId`) does not carry out any more.
 */
export async function releaseInterrupted(
  db: Queryable,
  { serverId, isAtWork }: { readonly serverId: string; readonly isAtWork: (orderId: string) => boolean },
): Promise<void> {
  const own = await db
    .select({ id: workOrders.id })
    .from(workOrders)
    .where(and(eq(workOrders.state, 'running'), eq(workOrders.serverId, serverId)));
  for (const { id } of own) if (!isAtWork(id)) await releaseOrder(db, id);
  await db
    .update(orderLines)
    .set(released)
    .where(and(eq(orderLines.state, 'claimed'), ofNoProcess(orderLines.serverId)));
  await db
    .update(orderLines)
    .set({ state: 'done', says: 'Undoing it was cut off. Read the lists to see what holds, then undo it again.' })
    .where(and(eq(orderLines.state, 'undoing'), ofNoProcess(orderLines.serverId)));
  await db
    .update(workOrders)
    .set({ state: 'approved' })
    .where(and(eq(workOrders.state, 'running'), ofNoProcess(workOrders.serverId)));
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
