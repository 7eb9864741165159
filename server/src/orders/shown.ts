import { wayBackOf } from '@loyal-hinge/core';
import type { OrderLine, ProposedOrder, WorkOrder } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { notFound } from '../http/problems.js';
import { byCapability } from './batches.js';
import type { ChangeWordsOf, SaidChange } from './port.js';
import { findOrder, linesOf } from './store.js';
import type { LineRow, OrderRow } from './store.js';

/** A work order with its lines in words, as its page shows it. */
export async function shownOrder(db: Database, words: ChangeWordsOf, id: string): Promise<WorkOrder> {
  const order = await findOrder(db, id);
  if (!order) throw notFound('work order', id);
  const lines = await linesOf(db, id);
  const said = new Map<LineRow, SaidChange>();
  for (const [capability, own] of byCapability(lines))
    (await words[capability].say(db, own)).forEach((change, index) => own[index] && said.set(own[index], change));
  return {
    ...headOf(order),
    lines: lines.flatMap((line) => {
      const change = said.get(line);
      return change ? [shownLine(line, change)] : [];
    }),
  };
}

/** The positions of those lines of an order that are done, and whose change holds as far as is known now. */
export async function linesThatHold(db: Database, words: ChangeWordsOf, id: string): Promise<number[]> {
  const done = (await linesOf(db, id)).filter(({ state }) => state === 'done');
  const holding: number[] = [];
  for (const [capability, own] of byCapability(done)) holding.push(...(await words[capability].holding(db, own)));
  return holding;
}

/** Proposed lines, each with what its change really takes the place of. */
export async function linesAsTheyLie(
  db: Database,
  words: ChangeWordsOf,
  lines: ProposedOrder['lines'],
): Promise<ProposedOrder['lines']> {
  const told: ProposedOrder['lines'] = [];
  for (const [capability, own] of byCapability(lines)) told.push(...(await words[capability].asTheyLie(db, own)));
  return told;
}

export const headOf = (order: OrderRow): Omit<WorkOrder, 'lines'> => ({
  id: order.id,
  title: order.title,
  state: order.state,
  proposedBy: order.proposedBy,
  proposedAt: new Date(order.proposedAt).toISOString(),
  decidedBy: order.decidedBy,
  decidedAt: iso(order.decidedAt),
});

const iso = (time: string | null): string | null => (time === null ? null : new Date(time).toISOString());

const shownLine = (line: LineRow, said: SaidChange): OrderLine => ({
  ...said,
  position: line.position,
  change: line.change,
  why: line.why,
  restart: line.restarted || said.restart,
  wrote: line.wrote,
  undo: wayBackOf(line.change) ? said.undo : `${said.undo} It can’t be undone from here.`,
  linkIds: line.linkIds,
  state: line.state,
  says: line.says,
  by: line.by,
  at: iso(line.at),
  provedAt: iso(line.provedAt),
});
