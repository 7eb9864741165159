import { appendAudit } from '../audit/trail.js';
import type { Database, Queryable } from '../database/database.js';
import type { EventLog } from '../events/event-log.js';
import { tellOutpost } from '../events/notices.js';
import { notFound } from '../http/problems.js';
import { knownGateways } from './store.js';
import type { KnownGateway } from './store.js';

/** Where what is changed of gateways is kept and told. */
export interface Kept {
  readonly db: Database;
  readonly events: EventLog;
}

/** A gateway by its id. @throws a problem where there is none */
export async function knownGateway(db: Database, id: string): Promise<KnownGateway> {
  const [known] = await knownGateways(db, id);
  if (!known) throw notFound('gateway', id);
  return known;
}

/** Changes something of a gateway, with its line in the trail, and has its process told. */
export async function changeGateway(
  { db, events }: Kept,
  actor: string,
  action: string,
  subject: string,
  carry: (tx: Queryable) => Promise<void>,
  gatewayId = subject,
): Promise<void> {
  await db.transaction(async (tx) => {
    await carry(tx);
    await appendAudit(tx, { actor, action, subject, details: {} });
    await tellOutpost(tx, gatewayId);
  });
  await events.tell({ kind: 'outposts-changed' });
}
