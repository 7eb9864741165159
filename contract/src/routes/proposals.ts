import * as z from 'zod';
import { proposal } from '../proposals.js';
import { at } from './addresses.js';
import { nothing, route } from './route.js';

/** What waits for a second person beside the work orders. */
export const proposalsRoutes = {
  proposals: route(at.proposals, {
    summary: 'What waits for a second person, and what was decided lately; the newest first',
    role: 'viewer',
    answer: z.object({ proposals: z.array(proposal) }),
  }),
  acceptProposal: route(at.acceptProposal, {
    summary: 'Accepts what another person proposed: it is done at once',
    role: 'approver',
    body: nothing,
    answer: proposal,
  }),
  refuseProposal: route(at.refuseProposal, {
    summary: 'Refuses what another person proposed, or withdraws one’s own proposal',
    role: 'engineer',
    body: nothing,
    answer: proposal,
  }),
};
