import type { Router } from 'express';
import { judgeEndpointUrl } from '@loyal-hinge/core';
import { linkPage } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { notFound } from '../http/problems.js';
import { serve } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import { findApplication } from '../plant/part.js';
import { writeLinks } from './links-csv.js';
import type { Links } from './service.js';

/** Of many checks that were asked for, only so many are told one by one. */
const mostTold = 200;

export function linkRoutes(router: Router, findActor: FindActor, links: Links, db: Database): void {
  serve(router, findActor, 'links', ({ query }) => links.rows(linkPage.parse(query)));
  serve(router, findActor, 'linkRow', ({ params }) => links.row(params['linkId'] ?? ''));
  serve(router, findActor, 'exportLinks', async ({ query, response, signal }) => {
    response.attachment('links.csv').type('text/csv');
    await writeLinks(response, db, linkPage.parse(query), signal);
    return '';
  });
  serve(router, findActor, 'link', ({ params }) => links.detail(params['linkId'] ?? ''));
  serve(router, findActor, 'checkLink', async ({ params }, actor) => {
    const [check] = await links.ask([params['linkId'] ?? ''], actor.name);
    if (!check) throw notFound('link', params['linkId'] ?? '');
    return check;
  });
  serve(router, findActor, 'proveWrites', ({ params, body }, actor) =>
    links.askToWrite(params['linkId'] ?? '', body, actor.name),
  );
  serve(router, findActor, 'checkAll', async ({ body }, actor) => {
    const { linkIds, fitting = {} } = body;
    const asked = linkIds ? await links.ask(linkIds, actor.name) : await links.askFitting(fitting, actor.name);
    return { asked: asked.length, checks: asked.slice(0, mostTold) };
  });
  serve(router, findActor, 'cancelAll', async () => ({ cancelled: await links.cancelAll() }));
  serve(router, findActor, 'check', async ({ params }) => links.checkDetail(params['checkId'] ?? ''));
  serve(router, findActor, 'cancelCheck', ({ params }) => links.cancel(params['checkId'] ?? ''));
  serve(router, findActor, 'judgeUrl', async ({ query }) => {
    const server = await findApplication(db, query['serverId'] ?? '');
    const judged = judgeEndpointUrl(query['url'] ?? '', server?.kind === 'server' ? server.ports[0] : undefined);
    return { given: judged.given, cleaned: judged.cleaned, flaws: [...judged.flaws] };
  });
}
