import type { Router } from 'express';
import type { Runs } from '../heavy/jobs.js';
import { serve } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import type { RoundsJobs } from './jobs.js';
import type { Rounds } from './service.js';

export function roundsRoutes(router: Router, findActor: FindActor, rounds: Rounds, heavy: Runs<RoundsJobs>): void {
  const roundIn = (params: Readonly<Record<string, string>>): string => params['roundId'] ?? '';
  serve(router, findActor, 'rounds', () => rounds.view());
  serve(router, findActor, 'addRound', ({ body }, { name }) => rounds.add(body, name));
  serve(router, findActor, 'putRound', ({ params, body }, { name }) => rounds.put(roundIn(params), body, name));
  serve(router, findActor, 'removeRound', async ({ params }, { name }) => {
    await rounds.remove(roundIn(params), name);
    return {};
  });
  serve(router, findActor, 'runRound', async ({ params }, { name }) => {
    await rounds.run(roundIn(params), name);
    return {};
  });
  serve(router, findActor, 'timeline', ({ query, signal }) => heavy.run('timeline', query, signal));
}
