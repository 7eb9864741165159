import type { Router } from 'express';
import { sayTrustChange, trustNames } from '@loyal-hinge/core';
import type { Database } from '../database/database.js';
import { serve } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import type { WorkOrders } from '../orders/service.js';
import type { Authorities } from './authorities/authorities.js';
import type { AuthoritySigning } from './authorities/signing.js';
import type { SignedElsewhere } from './authorities/signed-elsewhere.js';
import type { Bundles } from './bundles.js';
import { certificatePage } from './views/certificate.js';
import { knownTrust } from './known-trust.js';
import type { PullTickets } from './pull-tickets.js';
import { recognise } from './recognise.js';
import type { Trust } from './service.js';
import type { Waivers } from './waivers.js';

const idIn = (params: Readonly<Record<string, string>>, name = 'id'): string => params[name] ?? '';

export interface TrustParts {
  readonly db: Database;
  readonly trust: Trust;
  readonly bundles: Bundles;
  readonly authorities: Authorities;
  readonly signing: AuthoritySigning;
  readonly elsewhere: SignedElsewhere;
  readonly pull: PullTickets;
  readonly orders: WorkOrders;
  readonly waivers: Waivers;
}

export function trustRoutes(router: Router, findActor: FindActor, parts: TrustParts): void {
  const { db, trust, bundles, authorities, signing, elsewhere, pull, orders, waivers } = parts;
  serve(router, findActor, 'trust', () => trust.overview());
  serve(router, findActor, 'trustHolder', ({ params }) => trust.holder(idIn(params)));
  serve(router, findActor, 'readTrust', ({ params }, actor) => trust.read(idIn(params), actor.name));
  serve(router, findActor, 'readAllTrust', async (_call, actor) => ({
    applicationIds: [...(await trust.readAll(actor.name))],
  }));
  serve(router, findActor, 'exportBundle', async ({ params, response }) => {
    const { name, zip } = await bundles.exported(idIn(params));
    response.attachment(name).type('application/zip').send(Buffer.from(zip));
    return '';
  });
  serve(router, findActor, 'importBundle', ({ params, body }, actor) =>
    bundles.imported(idIn(params), body.file, body.copiedAt, actor.name),
  );
  serve(router, findActor, 'recognise', async ({ body }) => ({ files: await recognise(db, body.files) }));
  serve(router, findActor, 'certificatePage', ({ params }) => certificatePage(db, idIn(params, 'thumbprint')));
  serve(router, findActor, 'giveWaiver', ({ body }, actor) => waivers.give(body, actor.name));
  serve(router, findActor, 'takeBackWaiver', ({ params }, actor) => waivers.takeBack(Number(idIn(params)), actor.name));
  serve(router, findActor, 'setTrustWay', async ({ params, body }, actor) => {
    await trust.setWay(idIn(params), body, actor.name);
    return { done: true };
  });
  serve(router, findActor, 'stepBack', async ({ params }, actor) => {
    const changes = await trust.stepBack(idIn(params), Number(params['entry']));
    const { plant, shelf } = await knownTrust(db);
    const names = trustNames(plant.applications, shelf);
    return orders.propose(
      {
        title: `Take the lists of ${names.application(idIn(params))} one step back`,
        lines: changes.map((change) => ({
          change,
          why: `${sayTrustChange(change, names).after}: as it was before.`,
          linkIds: [],
        })),
      },
      actor,
    );
  });
  serve(router, findActor, 'trustPlans', () => trust.plans());
  serve(router, findActor, 'trustWhatIf', async ({ body }) => ({ turns: await trust.whatIf(body.changes) }));
  serve(router, findActor, 'setAside', async () => ({ entries: await trust.setAside() }));
  serve(router, findActor, 'dismissSetAside', async ({ body }, actor) => {
    await trust.dismiss(body.holderId, body.thumbprint, body.dismissed, actor.name);
    return { done: true };
  });
  serve(router, findActor, 'horizon', () => trust.horizon());

  serve(router, findActor, 'pullTickets', async () => ({ tickets: await pull.all() }));
  serve(router, findActor, 'makePullTicket', ({ body }, actor) =>
    pull.make(body.applicationId, body.validHours, actor.name),
  );
  serve(router, findActor, 'signPullTicket', ({ params, body }, actor) => pull.sign(idIn(params), body, actor.name));
  serve(router, findActor, 'pullRequest', ({ body }) => pull.handIn(body.token, body.requestPem));
  serve(router, findActor, 'pullResult', ({ body }) => pull.fetch(body.token));

  serve(router, findActor, 'authorities', async () => ({ authorities: await authorities.all() }));
  serve(router, findActor, 'createAuthority', ({ body }, actor) => authorities.create(body, actor.name));
  serve(router, findActor, 'importAuthority', ({ body }, actor) => authorities.import(body, actor.name));
  serve(router, findActor, 'renewAuthority', ({ params, body }, actor) =>
    authorities.renew(idIn(params, 'thumbprint'), body, actor.name),
  );
  serve(router, findActor, 'issueCertificate', ({ params, body }, actor) =>
    signing.issue(idIn(params, 'thumbprint'), body, actor.name),
  );
  serve(router, findActor, 'revokeCertificate', ({ params, body }, actor) =>
    signing.revoke(idIn(params, 'thumbprint'), body.serialNumber, body.reason, body.passphrase, actor.name),
  );
  serve(router, findActor, 'requestCertificate', ({ params, body }, actor) =>
    elsewhere.request(idIn(params, 'thumbprint'), body.applicationId, actor.name),
  );
  serve(router, findActor, 'bringCertificate', ({ params, body }, actor) =>
    elsewhere.bring(idIn(params), body.certificatePem, actor),
  );
  serve(router, findActor, 'dropRequest', async ({ params }, actor) => {
    await elsewhere.drop(idIn(params), actor.name);
    return { done: true };
  });
  serve(router, findActor, 'issueCrl', ({ params, body }, actor) =>
    signing.issueCrl(idIn(params, 'thumbprint'), body.passphrase, actor.name),
  );
}
