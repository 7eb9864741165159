import { givesCertificate, sayTrustChange, targetOf, trustNames, undoOf } from '@loyal-hinge/core';
import type { TrustChange } from '@loyal-hinge/core';
import type { OrderLine, WorkOrder } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { notFound } from '../http/problems.js';
import { authoritiesHere } from '../trust/authorities/store.js';
import { knownTrust } from '../trust/known-trust.js';
import type { KnownTrust } from '../trust/known-trust.js';
import { findOrder, linesOf } from './store.js';
import type { LineRow, OrderRow } from './store.js';

/** A work order with its lines in words, as its page shows it. */
export async function shownOrder(db: Database, id: string): Promise<WorkOrder> {
  const order = await findOrder(db, id);
  if (!order) throw notFound('work order', id);
  const [lines, known, signers] = await Promise.all([linesOf(db, id), knownTrust(db), authoritiesHere(db)]);
  return { ...headOf(order), lines: linesAsShown(lines, known, signers) };
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

/** Whether an authority whose key lies here signs for a change. */
export const isSignedHere = (change: TrustChange, signers: ReadonlySet<string>): boolean =>
  change.kind === 'renew-certificate' && signers.has(change.authority);

const iso = (time: string | null): string | null => (time === null ? null : new Date(time).toISOString());

function linesAsShown(
  lines: readonly LineRow[],
  { plant, trust, shelf }: KnownTrust,
  signers: ReadonlySet<string>,
): OrderLine[] {
  const names = trustNames(plant.applications, shelf);
  const parties = new Map(trust.parties.map((party) => [party.applicationId, party]));
  return lines.map((line) => {
    const party = parties.get(targetOf(line.change));
    const { title, target, before, after, undo } = sayTrustChange(line.change, names);
    return {
      position: line.position,
      change: line.change,
      title,
      target,
      before,
      after,
      why: line.why,
      way: party?.way ?? 'unknown',
      restart: line.restarted || (party?.restarts ?? false) || (givesCertificate(line.change) && party?.way !== 'held'),
      signedHere: isSignedHere(line.change, signers),
      wrote: line.wrote,
      undo: undoOf(line.change) ? undo : `${undo} It can’t be undone from here.`,
      linkIds: line.linkIds,
      state: line.state,
      says: line.says,
      by: line.by,
      at: iso(line.at),
      provedAt: iso(line.provedAt),
    };
  });
}
