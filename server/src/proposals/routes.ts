import type { Router } from 'express';
import { serve } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import type { Proposals } from './service.js';

export function proposalRoutes(router: Router, findActor: FindActor, proposals: Proposals): void {
  serve(router, findActor, 'proposals', async () => ({ proposals: await proposals.all() }));
  serve(router, findActor, 'acceptProposal', ({ params }, actor) => proposals.accept(params['id'] ?? '', actor));
  serve(router, findActor, 'refuseProposal', ({ params }, actor) => proposals.refuse(params['id'] ?? '', actor));
}
