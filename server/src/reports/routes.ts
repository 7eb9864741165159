import type { Router } from 'express';
import { serve } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import type { ServerListening } from './listening.js';

export function reportRoutes(router: Router, findActor: FindActor, listening: ServerListening): void {
  serve(router, findActor, 'serverReports', ({ params }) => listening.view(params['serverId'] ?? ''));
  serve(router, findActor, 'listenToServer', ({ params, body }, actor) =>
    listening.begin(params['serverId'] ?? '', body, actor.name),
  );
  serve(router, findActor, 'listenNoMore', ({ params }) => {
    listening.stop(params['serverId'] ?? '');
    return Promise.resolve({ done: true });
  });
}
