import { mayActAs } from '@loyal-hinge/contract';
import type { Proposal } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database } from '../database/database.js';
import { tellEvent } from '../events/tell-event.js';
import { conflict, mayNot, notFound } from '../http/problems.js';
import type { Actor } from '../http/serve.js';
import { decide, holdProposal, shownProposal, shownProposals } from './store.js';
import type { KeptProposal } from './store.js';

/** What waits for a second person beside the work orders: it is done when another one accepts it, and not before. */
export class Proposals {
  constructor(
    private readonly db: Database,
    /** Does what was proposed, in the name of the one who proposed it. */
    private readonly carry: (proposal: KeptProposal) => Promise<void>,
  ) {}

  all = (): Promise<Proposal[]> => shownProposals(this.db);

  /** Held while it is done: two who accept at once do it once, and one that can’t be done goes on waiting. */
  async accept(id: string, actor: Actor): Promise<Proposal> {
    await this.db.transaction(async (tx) => {
      const held = await holdProposal(tx, id);
      if (!held) throw await this.gone(id);
      if (held.proposedBy === actor.name)
        throw conflict(
          'Another person has to accept this than the one who proposed it.',
          'Ask an approver; it goes on waiting.',
        );
      await this.carry(held);
      await decide(tx, id, 'accepted', actor.name);
      const details = { title: held.title, proposedBy: held.proposedBy };
      await appendAudit(tx, { actor: actor.name, action: 'proposal accepted', subject: id, details });
    });
    return this.decided(id);
  }

  async refuse(id: string, actor: Actor): Promise<Proposal> {
    await this.db.transaction(async (tx) => {
      const held = await holdProposal(tx, id);
      if (!held) throw await this.gone(id);
      if (held.proposedBy !== actor.name && !mayActAs(actor.role, 'approver')) throw mayNot('approver');
      await decide(tx, id, 'refused', actor.name);
      await appendAudit(tx, {
        actor: actor.name,
        action: 'proposal refused',
        subject: id,
        details: { title: held.title },
      });
    });
    return this.decided(id);
  }

  private async decided(id: string): Promise<Proposal> {
    await tellEvent(this.db, { kind: 'proposals-changed' });
    const shown = await shownProposal(this.db, id);
    if (!shown) throw notFound('proposal', id);
    return shown;
  }

  private async gone(id: string): Promise<Error> {
    return (await shownProposal(this.db, id))
      ? conflict('This was decided already.', 'Check the present state.')
      : notFound('proposal', id);
  }
}
