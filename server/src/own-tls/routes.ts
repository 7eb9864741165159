import type { Router } from 'express';
import type { Database } from '../database/database.js';
import { serve } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import { conflict } from '../http/problems.js';
import type { AuthoritySigning } from '../trust/authorities/signing.js';
import { namesHere } from '@loyal-hinge/outpost';
import type { OwnTls } from './own-tls.js';

/** @param tls null: this server is reached from its own computer alone, and serves without TLS */
export function ownTlsRoutes(
  router: Router,
  findActor: FindActor,
  tls: OwnTls | null,
  parts: { readonly db: Database; readonly signing: AuthoritySigning },
): void {
  const needed = (): OwnTls => {
    if (tls === null)
      throw conflict(
        'This server is reached only from its own computer, and needs no certificate.',
        'Start it with HINGE_HOST to serve others, or with HINGE_TLS=yes.',
      );
    return tls;
  };
  serve(router, findActor, 'ownCertificate', () =>
    Promise.resolve({ certificate: tls?.view ?? null, hosts: [...namesHere()] }),
  );
  serve(router, findActor, 'requestOwnCertificate', async ({ body }) => ({
    requestPem: await needed().request(body.hosts),
  }));
  serve(router, findActor, 'putOwnCertificate', async ({ body }, actor) => {
    await needed().take(body, parts, actor.name);
    return { certificate: needed().view, hosts: [...namesHere()] };
  });
}
