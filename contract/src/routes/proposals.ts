import { z } from 'zod';
import { proposal } from '../proposals.js';
import { nothing, route } from './route.js';

/** What waits for a second person beside the work orders. */
export const proposalsRoutes = {
  proposals: route({
    method: 'get',
    path: '/api/proposals',
    summary: 'What waits for a second person, and what was decided lately; the newest first',
    role: 'viewer',
    answer: z.object({ proposals: z.array(proposal) }),
  }),
  acceptProposal: route({
    method: 'post',
    path: '/api/proposals/:id/acceptance',
    summary: 'Accepts what another person proposed: it is done at once',
    role: 'approver',
    body: nothing,
    answer: proposal,
  }),
  refuseProposal: route({
    method: 'post',
    path: '/api/proposals/:id/refusal',
    summary: 'Refuses what another person proposed, or takes back what one proposed oneself',
    role: 'engineer',
    body: nothing,
    answer: proposal,
  }),
};
