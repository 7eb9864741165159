import type { Router } from 'express';
import type { BenchValue } from '@loyal-hinge/contract';
import { openStream } from '../events/routes.js';
import { admit, serve } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import type { Benches } from './service.js';

/** Values are gathered for this long before they are sent on: a browser needs no more. */
const gatherMs = 250;

export function benchRoutes(router: Router, findActor: FindActor, benches: Benches): void {
  serve(router, findActor, 'openBench', ({ params }, actor) => benches.openOn(params['linkId'] ?? '', actor.name));
  serve(router, findActor, 'browseBench', async ({ params, query }, actor) => ({
    nodes: await benches.browse(params['benchId'] ?? '', actor.name, query['parent']),
  }));
  serve(router, findActor, 'readBench', ({ params, query }, actor) =>
    benches.read(params['benchId'] ?? '', actor.name, query['nodeId'] ?? ''),
  );
  serve(router, findActor, 'closeBench', async ({ params }, actor) => {
    benches.close(params['benchId'] ?? '', actor.name);
    return { done: true };
  });

  router.get('/api/bench/:benchId/values', async (request, response) => {
    const actor = await admit(request, findActor, 'engineer', 'get');
    const asked = request.query['nodeId'];
    const nodeIds = (Array.isArray(asked) ? asked : [asked]).filter(
      (nodeId): nodeId is string => typeof nodeId === 'string',
    );
    const newest = new Map<string, BenchValue>();
    const stop = await benches.watch(request.params['benchId'] ?? '', actor.name, nodeIds, (value) =>
      newest.set(value.nodeId, value),
    );
    openStream(response);
    const timer = setInterval(() => {
      if (newest.size === 0) return;
      response.write(`data: ${JSON.stringify({ values: [...newest.values()] })}\n\n`);
      newest.clear();
    }, gatherMs);
    response.on('close', () => {
      clearInterval(timer);
      stop();
    });
  });
}
