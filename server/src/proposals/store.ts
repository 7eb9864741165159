import { randomUUID } from 'node:crypto';
import { and, desc, eq } from 'drizzle-orm';
import type { Proposal, ProposalState } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database, Queryable } from '../database/database.js';
import { proposals } from '../database/schema.js';
import type { ProposalBody } from '../database/schema.js';
import { tellEvent } from '../events/tell-event.js';

export type KeptProposal = typeof proposals.$inferSelect;

const mostShown = 200;
const shownColumns = {
  id: proposals.id,
  kind: proposals.kind,
  title: proposals.title,
  says: proposals.says,
  state: proposals.state,
  proposedBy: proposals.proposedBy,
  proposedAt: proposals.proposedAt,
  decidedBy: proposals.decidedBy,
  decidedAt: proposals.decidedAt,
};

/** Keeps something for a second person to decide. @returns its id */
export async function propose(
  db: Database,
  { body, title, says }: { readonly body: ProposalBody; readonly title: string; readonly says: readonly string[] },
  actor: string,
): Promise<string> {
  const id = randomUUID();
  await db.transaction(async (tx) => {
    await tx.insert(proposals).values({ id, kind: body.kind, title, says: [...says], body, proposedBy: actor });
    await appendAudit(tx, { actor, action: 'proposed to a second person', subject: id, details: { title, says } });
  });
  await tellEvent(db, { kind: 'proposals-changed' });
  return id;
}

/** The newest first, without what they would change. */
export async function shownProposals(db: Queryable): Promise<Proposal[]> {
  const rows = await db.select(shownColumns).from(proposals).orderBy(desc(proposals.proposedAt)).limit(mostShown);
  return rows.map(viewOf);
}

export async function shownProposal(db: Queryable, id: string): Promise<Proposal | null> {
  const [row] = await db.select(shownColumns).from(proposals).where(eq(proposals.id, id));
  return row ? viewOf(row) : null;
}

/** One that waits, held for as long as the transaction lasts; null where it is not there, or decided. */
export async function holdProposal(tx: Queryable, id: string): Promise<KeptProposal | null> {
  const [row] = await tx
    .select()
    .from(proposals)
    .where(and(eq(proposals.id, id), eq(proposals.state, 'waiting')))
    .for('update');
  return row ?? null;
}

export async function findProposal(db: Queryable, id: string): Promise<KeptProposal | null> {
  const [row] = await db.select().from(proposals).where(eq(proposals.id, id));
  return row ?? null;
}

export async function decide(
  tx: Queryable,
  id: string,
  state: Exclude<ProposalState, 'waiting'>,
  decidedBy: string,
): Promise<void> {
  await tx.update(proposals).set({ state, decidedBy, decidedAt: new Date().toISOString() }).where(eq(proposals.id, id));
}

function viewOf(row: Omit<KeptProposal, 'body'>): Proposal {
  const { id, kind, title, says, state, proposedBy, decidedBy } = row;
  const iso = (at: string): string => new Date(at).toISOString();
  return {
    id,
    kind,
    title,
    says,
    state,
    proposedBy,
    proposedAt: iso(row.proposedAt),
    decidedBy,
    decidedAt: row.decidedAt === null ? null : iso(row.decidedAt),
  };
}
