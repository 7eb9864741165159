import type { Router } from 'express';
import { gridPage, partiesWish } from '@loyal-hinge/contract';
import type { Runs } from '../heavy/jobs.js';
import { numberIn, serve, serveLarge, serveText } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import type { WorkOrders } from '../orders/service.js';
import type { Authorities } from './authorities/authorities.js';
import type { AuthoritySigning } from './authorities/signing.js';
import type { SignedElsewhere } from './authorities/signed-elsewhere.js';
import type { PullTickets } from './authorities/pull-tickets.js';
import type { Trust } from './service.js';
import type { Waivers } from './waivers/waivers.js';
import type { TrustJobs } from './jobs.js';

const idIn = (params: Readonly<Record<string, string>>, name = 'id'): string => params[name] ?? '';

export interface TrustParts {
  readonly trust: Trust;
  readonly heavy: Runs<TrustJobs>;
  readonly authorities: Authorities;
  readonly signing: AuthoritySigning;
  readonly elsewhere: SignedElsewhere;
  readonly pull: PullTickets;
  readonly orders: WorkOrders;
  readonly waivers: Waivers;
}

export function trustRoutes(router: Router, findActor: FindActor, parts: TrustParts): void {
  const { trust, heavy, authorities, signing, elsewhere, pull, orders, waivers } = parts;
  serveText(router, findActor, 'trust', ({ query, signal }) => trust.overview(gridPage.parse(query), signal));
  serve(router, findActor, 'exportTrust', async ({ query, response, signal }) => {
    const csv = await heavy.run('exportTrust', gridPage.parse(query), signal);
    response.attachment('trust.csv').type('text/csv');
    return csv;
  });
  serve(router, findActor, 'trustFinding', ({ signal }) => trust.finding(signal));
  serveText(router, findActor, 'trustParties', ({ query, signal }) => trust.parties(partiesWish.parse(query), signal));
  serveText(router, findActor, 'trustHolder', ({ params, signal }) => trust.holder(idIn(params), signal));
  serve(router, findActor, 'readTrust', ({ params }, actor) => trust.read(idIn(params), actor.name));
  serve(router, findActor, 'readAllTrust', async (_call, actor) => ({
    applicationIds: [...(await trust.readAll(actor.name))],
  }));
  serve(router, findActor, 'exportBundle', async ({ params, response, signal }) => {
    const { name, zip } = await heavy.run('exportBundle', { applicationId: idIn(params) }, signal);
    response.attachment(name).type('application/zip').send(Buffer.from(zip));
    return '';
  });
  serveLarge(router, findActor, 'importBundle', async ({ text, params, signal }, { name: actor }) => {
    const reported = await heavy.run('importBundle', { applicationId: idIn(params), text, actor }, signal);
    await orders.proveAll();
    return reported;
  });
  serveLarge(router, findActor, 'recognise', async ({ text, signal }, { name: actor }) => ({
    files: await heavy.run('recognise', { text, actor }, signal),
  }));
  serveText(router, findActor, 'certificatePage', ({ params, signal }) =>
    trust.certificate(idIn(params, 'thumbprint'), signal),
  );
  serve(router, findActor, 'giveWaiver', ({ body }, actor) => waivers.ask(body, actor.name));
  serve(router, findActor, 'takeBackWaiver', ({ params }, actor) => waivers.takeBack(Number(idIn(params)), actor.name));
  serve(router, findActor, 'setTrustWay', async ({ params, body }, actor) => {
    await trust.setWay(idIn(params), body, actor.name);
    return { done: true };
  });
  serve(router, findActor, 'releasePushPassword', async ({ params, body }, actor) => {
    await trust.releasePassword(idIn(params), body, actor.name);
    return { done: true };
  });
  serve(router, findActor, 'stepBack', async ({ params, signal }, actor) => {
    const entryId = numberIn(params, 'entry', 'entry');
    return orders.propose(await heavy.run('stepBack', { applicationId: idIn(params), entryId }, signal), actor);
  });
  serveText(router, findActor, 'trustPlans', ({ query, signal }) => trust.plans(query['find'], signal));
  serve(router, findActor, 'proposePlan', async ({ body, signal }, actor) =>
    orders.propose(await heavy.run('plannedOrder', body, signal), actor),
  );
  serve(router, findActor, 'trustWhatIf', async ({ body, signal }) => ({
    turns: await trust.whatIf(body.changes, signal),
  }));
  serveText(router, findActor, 'setAside', ({ signal }) => trust.setAside(signal));
  serve(router, findActor, 'dismissSetAside', async ({ body }, actor) => {
    await trust.dismiss(body.holderId, body.thumbprint, body.dismissed, actor.name);
    return { done: true };
  });
  serveText(router, findActor, 'horizon', ({ signal }) => trust.horizon(signal));

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
