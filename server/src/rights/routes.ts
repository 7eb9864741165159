import type { Router } from 'express';
import { rightsReportWish, rightsWish } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import type { Runs } from '../heavy/jobs.js';
import { serve, serveText } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import { rightsServers } from './identities.js';
import type { RightsJobs } from './jobs.js';
import type { RightsSnapshots } from './snapshots.js';

export function rightsRoutes(
  router: Router,
  findActor: FindActor,
  db: Database,
  heavy: Runs<RightsJobs>,
  snapshots: RightsSnapshots,
): void {
  serve(router, findActor, 'rightsServers', async () => ({ servers: await rightsServers(db) }));
  serveText(router, findActor, 'rightsWriters', ({ query, signal }) =>
    heavy.run('rightsWriters', rightsWish.pick({ find: true }).parse(query), signal),
  );
  serveText(router, findActor, 'rights', ({ params, query, signal }) =>
    heavy.run('rightsView', { serverId: params['serverId'] ?? '', wish: rightsWish.parse(query) }, signal),
  );
  serve(router, findActor, 'rightsReport', async ({ query, response, signal }, actor) => {
    const wish = rightsReportWish.parse(query);
    const pdf = await heavy.run('rightsReport', { ...wish, madeBy: actor.name }, signal);
    response.attachment('who-can-write.pdf').type('application/pdf').send(Buffer.from(pdf));
    return '';
  });
  serve(router, findActor, 'rightsMatches', ({ params, body, signal }) =>
    heavy.run('rightsMatches', { serverId: params['serverId'] ?? '', wish: body }, signal),
  );
  serve(router, findActor, 'exportRights', async ({ params, response, signal }) => {
    const csv = await heavy.run('rightsCsv', { serverId: params['serverId'] ?? '' }, signal);
    response.attachment('rights.csv').type('text/csv');
    return csv;
  });
  serve(router, findActor, 'takeSnapshots', async ({ params, body }, actor) => ({
    snapshots: await snapshots.begin(params['serverId'] ?? '', body, actor.name),
  }));
  serve(router, findActor, 'cancelSnapshot', async ({ params }) => {
    await snapshots.cancel(params['id'] ?? '');
    return { done: true };
  });
  serve(router, findActor, 'removeSnapshot', async ({ params }, actor) => {
    await snapshots.remove(params['id'] ?? '', actor.name);
    return { done: true };
  });
  serveText(router, findActor, 'compareSnapshots', ({ params, signal }) =>
    heavy.run('rightsChanges', { before: params['before'] ?? '', after: params['after'] ?? '' }, signal),
  );
}
