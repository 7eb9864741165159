import * as z from 'zod';

/** What one person asked for and another has to accept first, where the plant says so. */
export const proposalKind = z.enum(['plant', 'waiver', 'settings', 'floor', 'exception']);
export type ProposalKind = z.infer<typeof proposalKind>;
export const proposalState = z.enum(['waiting', 'accepted', 'refused']);
export type ProposalState = z.infer<typeof proposalState>;

export const proposal = z.object({
  id: z.string(),
  kind: proposalKind,
  title: z.string(),
  /** What will be other than now, line by line. */
  says: z.array(z.string()),
  state: proposalState,
  proposedBy: z.string(),
  proposedAt: z.string(),
  decidedBy: z.string().nullable(),
  decidedAt: z.string().nullable(),
});
export type Proposal = z.infer<typeof proposal>;

/** Whether something is done, or waits as this proposal for another person; null: it is done. */
export const waits = z.object({ waitsAs: z.string().nullable() });
