import { createServer } from 'node:http';
import { createServer as createTlsServer, Server as TlsServer } from 'node:https';
import { isIPv6 } from 'node:net';
import type { AddressInfo } from 'node:net';
import type { Logger } from 'pino';
import type { Health } from '@loyal-hinge/contract';
import { auditRoutes } from './audit/routes.js';
import { SealMaker, TrailSeals } from './audit/seals.js';
import { benchRoutes } from './bench/routes.js';
import { Benches } from './bench/service.js';
import type { Configuration } from './configuration.js';
import { openDatabase } from './database/database.js';
import { SecretStore } from './database/sealing.js';
import { openSealing } from './database/sealing-key.js';
import { EventLog } from './events/event-log.js';
import { Notices } from './events/notices.js';
import { eventRoutes } from './events/routes.js';
import { Streams } from './events/stream.js';
import { HeavyWork } from './heavy/heavy-work.js';
import { makeApp } from './http/app.js';
import { CheckRunner } from './links/check-runner.js';
import { Mending } from './links/mend.js';
import { CheckQueue } from './links/queue.js';
import { Retention } from './links/retention.js';
import { linkRoutes } from './links/routes.js';
import { Links } from './links/service.js';
import { proposalRoutes } from './proposals/routes.js';
import { Proposals } from './proposals/service.js';
import { PasswordRelease } from './links/password-release.js';
import { bindSecrets } from './plant/secret-owners.js';
import { MachineLocks } from './processes/machine-locks.js';
import { ServerProcess } from './processes/server-process.js';
import { OrderCarrier } from './orders/carry-out.js';
import { RenewalProof } from './orders/renewal-proof.js';
import { orderRoutes } from './orders/routes.js';
import { WorkOrders } from './orders/service.js';
import { orphanedChecks } from './links/store.js';
import { Accounts } from './people/accounts.js';
import { OwnTls } from './own-tls/own-tls.js';
import { ownTlsRoutes } from './own-tls/routes.js';
import { findActorBy, peopleRoutes } from './people/routes.js';
import { SecondFactor } from './people/second-factor.js';
import { People } from './people/service.js';
import { Discovery } from './plant/discovery.js';
import { discoveryRoutes, plantRoutes } from './plant/routes.js';
import { PlantKeeping } from './plant/service.js';
import { readSetting } from './plant/store.js';
import { Identities } from './settings/identities.js';
import { settingsRoutes, writeSettings } from './settings/routes.js';
import { Authorities } from './trust/authorities/authorities.js';
import { AuthoritySigning } from './trust/authorities/signing.js';
import { SignedElsewhere } from './trust/authorities/signed-elsewhere.js';
import { TrustCarrier } from './trust/carrier.js';
import { TrustEnds } from './trust/ends.js';
import { PushDesk } from './trust/push-desk.js';
import { PullTickets } from './trust/pull-tickets.js';
import { CertificateRenewal } from './trust/renewal.js';
import { trustRoutes } from './trust/routes.js';
import { Trust } from './trust/service.js';
import { Waivers } from './trust/waivers.js';
import { silenceLibrary } from './ua/quiet.js';

/** A check that waits this long without a job gets a new one. */
const orphanAfterMs = 10_000;

export interface RunningServer {
  readonly url: string;
  stop(): Promise<void>;
}

/** Puts the parts together and begins to serve. */
export async function startServer(configuration: Configuration, logger: Logger): Promise<RunningServer> {
  silenceLibrary();
  const { db, isUp, close } = await openDatabase(configuration.databaseUrl, logger);
  const sealing = await openSealing(db, configuration.sealingKey);
  const secrets = new SecretStore(sealing);
  const sealMaker = new SealMaker(sealing);
  const seals = new TrailSeals(db, sealMaker, configuration.anchors, logger);
  await db.transaction((tx) => bindSecrets(tx, secrets));
  const heavy = new HeavyWork(configuration.databaseUrl, logger);
  const notices = new Notices(configuration.databaseUrl, logger);
  const events = new EventLog(db, notices, logger);
  const serverProcess = new ServerProcess(db, logger);
  const locks = new MachineLocks(db, serverProcess);
  const desk = new PushDesk(db, secrets, locks);
  const carrier = new TrustCarrier(db, desk);
  const runner = new CheckRunner(db, secrets, events, logger, serverProcess, locks, (serverId, signal) =>
    carrier.listsForCheck(serverId, signal),
  );
  const queue = new CheckQueue(configuration.databaseUrl, logger);
  const links = new Links(db, secrets, heavy, queue, runner, events);
  const release = new PasswordRelease(db, secrets);
  const benches = new Benches(db, secrets, links, locks);
  const secondFactor = new SecondFactor(secrets);
  const people = new People(db, secondFactor);
  const accounts = new Accounts(db, secondFactor);
  const streams = new Streams();
  const discovery = new Discovery(db, events, locks);
  const signing = new AuthoritySigning(db, secrets, heavy, events);
  const renewal = new CertificateRenewal(db, secrets, desk, carrier, signing);
  const orders = new WorkOrders(db, heavy, events);
  const afterReading = (): Promise<void> => orders.proveAll();
  const trust = new Trust(db, secrets, release, carrier, events, heavy, afterReading);
  const proof = new RenewalProof(links, carrier);
  const orderCarrier = new OrderCarrier(
    db,
    heavy,
    serverProcess,
    orders,
    carrier,
    renewal,
    links,
    proof,
    events,
    logger,
  );
  const waivers = new Waivers(db, heavy, events, links);
  const retention = new Retention(db, logger);
  const trustEnds = new TrustEnds(db, carrier, waivers, events, logger);

  serverProcess.clearingBy(() => runner.failInterrupted());
  serverProcess.clearingBy(() => orderCarrier.releaseInterrupted());
  await serverProcess.join();
  notices.hear((notice) => {
    if (notice.kind === 'cancel') runner.cancel(notice.checkId);
    if (notice.kind === 'sign-ins-ended') streams.lookAgain();
  });
  await seals.start();
  await events.start();
  await notices.start();
  void retention.look();
  await queue.start((checkId) => runner.run(checkId));
  // A check whose job got lost with the last server gets a new one; a second job for the same check does nothing.
  await queue.add(await orphanedChecks(db, 0));
  const sweeper = setInterval(() => {
    orphanedChecks(db, orphanAfterMs)
      .then((checkIds) => queue.add(checkIds.filter((checkId) => !runner.has(checkId))))
      .catch((error: unknown) => logger.warn({ reason: String(error) }, 'lost checks could not be looked for'));
  }, orphanAfterMs);

  const proposals = new Proposals(db, async ({ id, body, proposedBy }) => {
    if (body.kind === 'plant') await heavy.run('replacePlant', { proposalId: id });
    else if (body.kind === 'waiver') await waivers.give(body.wish, proposedBy);
    else await writeSettings(db, { approvedByAnother: body.approvedByAnother }, proposedBy);
  });

  const health = async (): Promise<Health> => {
    const [database, queueUp] = await Promise.all([isUp(), queue.isUp()]);
    const standIns = configuration.mode === 'demo' ? await standInsState() : 'none';
    const up = (isUp: boolean): 'up' | 'down' => (isUp ? 'up' : 'down');
    return {
      status: database && queueUp && standIns !== 'down' ? 'well' : 'unwell',
      database: up(database),
      queue: up(queueUp),
      standIns,
    };
  };
  const standInsState = async (): Promise<'up' | 'down'> => {
    const url = await readSetting(db, 'standInsUrl').catch(() => null);
    return typeof url === 'string' && (await answers(url)) ? 'up' : 'down';
  };

  const tls = configuration.tlsFolder === null ? null : await OwnTls.open(configuration.tlsFolder);
  const app = await makeApp({
    logger,
    isSecure: tls !== null,
    webFolder: configuration.webFolder,
    health,
    routes: (router) => {
      const findActor = findActorBy(people);
      peopleRoutes(router, people, accounts, findActor);
      auditRoutes(router, findActor, db, heavy, sealMaker, configuration.anchors);
      linkRoutes(router, findActor, links, new Mending(db, secrets, links, carrier, release, orders), db);
      plantRoutes(router, findActor, new PlantKeeping(db, events), heavy);
      discoveryRoutes(router, findActor, discovery);
      settingsRoutes(router, findActor, db, new Identities(db, secrets, signing, events));
      benchRoutes(router, findActor, benches, streams);
      trustRoutes(router, findActor, {
        trust,
        heavy,
        authorities: new Authorities(db, secrets, heavy, signing),
        signing,
        elsewhere: new SignedElsewhere(db, renewal, orders, events),
        pull: new PullTickets(db, signing, events),
        orders,
        waivers,
      });
      orderRoutes(router, findActor, orders, orderCarrier);
      proposalRoutes(router, findActor, proposals);
      ownTlsRoutes(router, findActor, tls, { db, signing });
      eventRoutes(router, events, streams, findActor);
    },
  });
  const server = tls === null ? createServer(app) : createTlsServer(tls.options, app);
  tls?.whenChanged((options) => server instanceof TlsServer && server.setSecureContext(options));
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen(configuration.port, configuration.host, resolve);
  });
  const { port } = server.address() as AddressInfo;

  return {
    url: `${tls === null ? 'http' : 'https'}://${isIPv6(configuration.host) ? `[${configuration.host}]` : configuration.host}:${port}`,
    async stop() {
      clearInterval(sweeper);
      trustEnds.stop();
      retention.stop();
      events.stop();
      await notices.stop();
      discovery.stop();
      server.close();
      benches.closeAll();
      runner.cancelAll();
      await queue.stop();
      await orderCarrier.settle();
      await heavy.stop();
      await seals.stop();
      server.closeAllConnections();
      await serverProcess.leave().catch(() => undefined);
      await close();
    },
  };
}

const answers = (url: string): Promise<boolean> =>
  fetch(url, { signal: AbortSignal.timeout(1000) }).then(
    () => true,
    () => false,
  );
