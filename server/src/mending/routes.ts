import type { Router } from 'express';
import { serve } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import type { Mending } from './mend.js';

export function mendingRoutes(router: Router, findActor: FindActor, mending: Mending): void {
  serve(router, findActor, 'mend', ({ params, body }, actor) =>
    mending.mend(params['linkId'] ?? '', body.change, body.password, actor),
  );
}
