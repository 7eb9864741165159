import type { Router } from 'express';
import { serve } from '../../http/serve.js';
import type { FindActor } from '../../http/serve.js';
import type { Origins } from './origins.js';

export function originRoutes(router: Router, findActor: FindActor, origins: Origins): void {
  const serverIn = (params: Readonly<Record<string, string>>): string => params['serverId'] ?? '';
  serve(router, findActor, 'origins', ({ query }) => origins.view(query));
  serve(router, findActor, 'originsAsCsv', ({ params }) => origins.asCsv(serverIn(params)));
  serve(router, findActor, 'putOrigin', ({ params, body }, { name }) => origins.put(serverIn(params), body, name));
  serve(router, findActor, 'putOriginPattern', ({ params, body }, { name }) =>
    origins.putPattern(serverIn(params), body, name),
  );
  serve(router, findActor, 'takeOrigins', ({ params, body }, { name }) => origins.take(serverIn(params), body, name));
  serve(router, findActor, 'removeOrigins', async ({ params, body }, { name }) => {
    await origins.remove(serverIn(params), body.paths, name);
    return {};
  });
}
