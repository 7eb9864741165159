import { randomUUID } from 'node:crypto';
import {
  givesCertificate,
  inSafeOrder,
  listingCrl,
  listsOf,
  sayTrustChange,
  targetOf,
  trustNames,
  undoOf,
} from '@loyal-hinge/core';
import type { TrustChange, TrustParty } from '@loyal-hinge/core';
import type { OrderLine, ProposedOrder, WorkOrder, WorkOrderRow, WorkOrderState } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database } from '../database/database.js';
import type { EventLog } from '../events/event-log.js';
import type { Actor } from '../http/serve.js';
import { conflict, notFound } from '../http/problems.js';
import { readSetting } from '../plant/store.js';
import { authoritiesHere } from '../trust/authorities/store.js';
import { knownTrust } from '../trust/known-trust.js';
import type { KnownTrust } from '../trust/known-trust.js';
import { addOrder, allLines, allOrders, findOrder, linesOf, moveLines, moveOrder } from './store.js';
import type { LineRow, OrderRow } from './store.js';

const iso = (time: string | null): string | null => (time === null ? null : new Date(time).toISOString());

/** Work orders: what is proposed, approved, withdrawn, and how it stands. Carrying out has a room of its own. */
export class WorkOrders {
  constructor(
    private readonly db: Database,
    private readonly events: EventLog,
  ) {}

  async rows(): Promise<WorkOrderRow[]> {
    const [orders, lines] = await Promise.all([allOrders(this.db), allLines(this.db)]);
    return orders.map((order) => {
      const own = lines.filter(({ orderId }) => orderId === order.id);
      const count = (...states: readonly LineRow['state'][]): number =>
        own.filter(({ state }) => states.includes(state)).length;
      return { ...headOf(order), lines: own.length, done: count('done', 'proved'), failed: count('failed') };
    });
  }

  async one(id: string): Promise<WorkOrder> {
    const order = await findOrder(this.db, id);
    if (!order) throw notFound('work order', id);
    const [lines, known, signers] = await Promise.all([
      linesOf(this.db, id),
      knownTrust(this.db),
      authoritiesHere(this.db),
    ]);
    return { ...headOf(order), lines: linesAsShown(lines, known, signers) };
  }

  /** What gives trust comes first, what takes it away last. */
  async propose({ title, lines }: ProposedOrder, actor: Actor): Promise<WorkOrder> {
    const id = randomUUID();
    const known = await knownTrust(this.db);
    const withBefore = lines.map((line) => ({ ...line, change: asItLies(line.change, known) }));
    await this.db.transaction(async (tx) => {
      await appendAudit(tx, {
        actor: actor.name,
        action: 'work order proposed',
        subject: id,
        details: { title, lines: lines.length },
      });
      await addOrder(tx, { id, title, proposedBy: actor.name }, [...inSafeOrder(withBefore)]);
    });
    await this.events.tell({ kind: 'order-changed', orderId: id });
    return this.one(id);
  }

  /** By another person than the one who proposed it, where the plant says so. */
  async approve(id: string, actor: Actor): Promise<WorkOrder> {
    const order = await findOrder(this.db, id);
    if (!order) throw notFound('work order', id);
    if ((await readSetting(this.db, 'approvedByAnother')) === true && order.proposedBy === actor.name)
      throw conflict(
        'This plant wants another person to approve than the one who proposed.',
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
        throw conflict(`This order can’t be ${state} any more.`, 'Look at how it stands now.');
      await appendAudit(tx, { actor: actor.name, action: `work order ${state}`, subject: id, details: {} });
    });
    await this.events.tell({ kind: 'order-changed', orderId: id });
    return this.one(id);
  }

  /** Lists were read: whatever waits for its proof is looked at. */
  async proveAll(): Promise<void> {
    const waiting = (await allLines(this.db)).filter(({ state }) => state === 'done').map(({ orderId }) => orderId);
    for (const id of new Set(waiting)) await this.prove(id);
  }

  /** Looks at what is known now, and marks those lines proved whose change holds; the order is proved when all are. */
  async prove(id: string): Promise<void> {
    const [lines, known] = await Promise.all([linesOf(this.db, id), knownTrust(this.db)]);
    const holding = lines
      .filter(({ state, change }) => state === 'done' && holds(change, known))
      .map(({ position }) => position);
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

/** Whether a change holds, as far as the newest reading tells. */
export function holds(
  change: TrustChange,
  { trust, plant, shelf }: Pick<KnownTrust, 'trust' | 'plant' | 'shelf'>,
): boolean {
  const party = trust.parties.find(({ applicationId }) => applicationId === targetOf(change));
  if (!party) return !plant.applications.some(({ id }) => id === targetOf(change));
  if (change.kind === 'renew-certificate')
    return isSignedBy(party, shelf.certificates.get(change.authority)?.extensions.subjectKeyId ?? null);
  if (change.kind === 'install-certificate') return party.certificate?.thumbprint === change.thumbprint;
  if (!party.lists) return false;
  const lists = listsOf(party);
  if (change.kind === 'list-crl' || change.kind === 'unlist-crl') {
    const there = lists[change.list === 'trusted' ? 'trustedCrls' : 'issuerCrls'].map(({ id }) => id);
    if (change.kind === 'list-crl') return there.includes(change.crlId);
    return !there.includes(change.crlId) && (change.instead === null || there.includes(change.instead));
  }
  const isListed = lists[change.list].some(({ thumbprint }) => thumbprint === change.thumbprint);
  return isListed === (change.kind === 'list-certificate');
}

/** A change with what it really takes the place of: the way back is reckoned from that. */
function asItLies(change: TrustChange, { trust, shelf }: Pick<KnownTrust, 'trust' | 'shelf'>): TrustChange {
  if (change.kind !== 'list-crl' && change.kind !== 'renew-certificate') return change;
  const party = trust.parties.find(({ applicationId }) => applicationId === targetOf(change));
  if (change.kind === 'renew-certificate') return { ...change, before: party?.certificate?.thumbprint ?? null };
  const crl = shelf.crls.find(({ id }) => id === change.crlId);
  return crl ? listingCrl(change.holderId, change.list, crl, party?.lists ?? null) : change;
}

/** Whether an authority whose key lies here signs for a change. */
export const isSignedHere = (change: TrustChange, signers: ReadonlySet<string>): boolean =>
  change.kind === 'renew-certificate' && signers.has(change.authority);

const isSignedBy = ({ certificate }: TrustParty, keyId: string | null): boolean =>
  keyId !== null && certificate?.extensions.authorityKeyId === keyId && !certificate.isSelfIssued;

const headOf = (order: OrderRow): Omit<WorkOrder, 'lines'> => ({
  id: order.id,
  title: order.title,
  state: order.state,
  proposedBy: order.proposedBy,
  proposedAt: new Date(order.proposedAt).toISOString(),
  decidedBy: order.decidedBy,
  decidedAt: iso(order.decidedAt),
});

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
