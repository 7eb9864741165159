import type { Router } from 'express';
import { judgeEndpointUrl } from '@loyal-hinge/core';
import type { CertificateView } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { notFound } from '../http/problems.js';
import { serve, serveText } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import { readPlant } from '../plant/store.js';
import { findCertificate } from '../trust/store.js';
import { unusualAbout } from '../trust/unusual.js';
import type { Mending } from './mend.js';
import type { Links } from './service.js';

export function linkRoutes(router: Router, findActor: FindActor, links: Links, mending: Mending, db: Database): void {
  serveText(router, findActor, 'links', ({ signal }) => links.rows(signal));
  serve(router, findActor, 'link', ({ params }) => links.detail(params['linkId'] ?? ''));
  serve(router, findActor, 'checkLink', async ({ params }, actor) => {
    const [check] = await links.ask([params['linkId'] ?? ''], actor.name);
    if (!check) throw notFound('link', params['linkId'] ?? '');
    return check;
  });
  serve(router, findActor, 'checkAll', async ({ body }, actor) => ({
    checks: await links.ask(body.linkIds ?? null, actor.name),
  }));
  serve(router, findActor, 'check', async ({ params }) => links.checkDetail(params['checkId'] ?? ''));
  serve(router, findActor, 'cancelCheck', ({ params }) => links.cancel(params['checkId'] ?? ''));
  serve(router, findActor, 'mend', ({ params, body }, actor) =>
    mending.mend(params['linkId'] ?? '', body.change, body.password, actor),
  );
  serve(router, findActor, 'judgeUrl', async ({ query }) => {
    const plant = await readPlant(db, []);
    const server = plant.applications.find((application) => application.id === query['serverId']);
    const judged = judgeEndpointUrl(query['url'] ?? '', server?.kind === 'server' ? server.ports[0] : undefined);
    return { given: judged.given, cleaned: judged.cleaned, flaws: [...judged.flaws] };
  });
  serve(router, findActor, 'certificate', async ({ params }) => {
    const found = await findCertificate(db, params['thumbprint'] ?? '');
    if (!found) throw notFound('certificate', params['thumbprint'] ?? '');
    const certificate = found.summary as CertificateView['certificate'];
    return {
      certificate,
      unusual: [...unusualAbout(found.summary, new Date().toISOString())],
      firstSeen: found.firstSeen,
    };
  });
}
