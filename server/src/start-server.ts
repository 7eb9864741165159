import { createServer } from 'node:http';
import { createServer as createTlsServer, Server as TlsServer } from 'node:https';
import { isIPv6 } from 'node:net';
import { join } from 'node:path';
import type { AddressInfo } from 'node:net';
import type { Logger } from 'pino';
import type { Health } from '@loyal-hinge/contract';
import type { AuditJobs } from './audit/jobs.js';
import { auditRoutes } from './audit/routes.js';
import { SealMaker, TrailSeals } from './audit/seals.js';
import { benchRoutes } from './bench/routes.js';
import { Recordings } from './bench/recordings.js';
import { Benches } from './bench/service.js';
import type { Configuration } from './setup/configuration.js';
import { openDatabase } from './database/database.js';
import type { Database } from './database/database.js';
import { links as linksTable } from './database/schema.js';
import { SecretStore } from './secrets/sealing.js';
import { openSealing } from './secrets/sealing-key.js';
import { EventLog } from './events/event-log.js';
import { Notices } from './events/notices.js';
import { eventRoutes } from './events/routes.js';
import { Streams } from './events/stream.js';
import { certificateRoutes } from './certificates/routes.js';
import { HeavyWork } from './heavy/heavy-work.js';
import type { Runs } from './heavy/jobs.js';
import { quickJobs } from './jobs.js';
import type { AllJobs } from './jobs.js';
import { FloorEnds } from './entry/floor/ends.js';
import { Floors } from './entry/floor/floors.js';
import type { EntryJobs } from './entry/jobs.js';
import { DoorDesk } from './entry/orders/desk.js';
import { entryRoutes } from './entry/routes.js';
import { mendingRoutes } from './mending/routes.js';
import { OrderUndoing } from './orders/undoing.js';
import { TrustDesk } from './trust/orders/desk.js';
import { makeApp } from './http/app.js';
import { CheckRunner } from './links/check-runner.js';
import { Mending } from './mending/mend.js';
import { CheckQueue } from './links/queue.js';
import { Retention } from './links/retention.js';
import { linkRoutes } from './links/routes.js';
import { Links } from './links/service.js';
import { proposalRoutes } from './proposals/routes.js';
import { Proposals } from './proposals/service.js';
import { accountOnMachine } from './means/account-on-machine.js';
import { PasswordRelease } from './means/password-release.js';
import { bindSecrets } from './plant/secret-owners.js';
import { RegularLook } from './processes/regular-look.js';
import { MachineLocks } from './processes/machine-locks.js';
import { ServerProcess } from './processes/server-process.js';
import type { OrderJobs } from './orders/jobs.js';
import { OrderCarrier } from './orders/carry-out.js';
import { RenewalProof } from './trust/orders/renewal-proof.js';
import { orderRoutes } from './orders/routes.js';
import { WorkOrders } from './orders/service.js';
import { orphanedChecks } from './links/store.js';
import { Accounts } from './people/accounts.js';
import { OwnTls } from './own-tls/own-tls.js';
import { ownTlsRoutes } from './own-tls/routes.js';
import { findActorBy, peopleRoutes } from './people/routes.js';
import { SecondFactor } from './people/second-factor.js';
import { People } from './people/service.js';
import type { PlantJobs } from './plant/jobs.js';
import { Discovery } from './plant/discovery.js';
import { discoveryRoutes, plantRoutes } from './plant/routes.js';
import { PlantKeeping } from './plant/service.js';
import { Identities } from './settings/identities.js';
import { ServerListening } from './reports/listening.js';
import { reportRoutes } from './reports/routes.js';
import { CaseActs } from './casebook/case-acts.js';
import { EvidenceFiles } from './casebook/evidence-files.js';
import { ReadingRules } from './casebook/reading-rules.js';
import { EvidenceKeeping } from './casebook/evidence-keeping.js';
import { EvidenceReader } from './casebook/evidence-reader.js';
import type { CasebookJobs } from './casebook/jobs.js';
import { casebookRoutes } from './casebook/routes.js';
import { SyslogReceiver } from './casebook/syslog.js';
import { WatchedFolder } from './casebook/watched-folder.js';
import type { DcomJobs } from './dcom/jobs.js';
import { DcomDesk } from './dcom/orders/desk.js';
import { dcomRoutes } from './dcom/routes.js';
import type { PassageJobs } from './passage/jobs.js';
import { PassageDesk } from './passage/orders/desk.js';
import { OutpostDoor } from './outposts/door.js';
import { Enrolment } from './outposts/enrolment.js';
import { OutpostLines } from './outposts/lines.js';
import { outpostRoutes } from './outposts/routes.js';
import { passageRoutes } from './passage/routes.js';
import type { RightsJobs } from './rights/jobs.js';
import { ProbeKeeping } from './probes/keeping.js';
import { probeRoutes } from './probes/routes.js';
import { RemoteDevices } from './probes/remote-devices.js';
import { RemoteWalks } from './probes/remote-walks.js';
import type { HandOutJobs } from './hand-outs/jobs.js';
import { handOutRoutes } from './hand-outs/routes.js';
import { recipientRoutes } from './recipients/routes.js';
import { Recipients } from './recipients/service.js';
import type { RoundsJobs } from './rounds/jobs.js';
import { DeviceReadings } from './field/devices/reading.js';
import { deviceRoutes } from './field/devices/routes.js';
import { MappingDesk } from './field/orders/desk.js';
import { Origins } from './field/origins/origins.js';
import { originRoutes } from './field/origins/routes.js';
import type { FieldJobs } from './field/searches/jobs.js';
import { registerSearchRoutes } from './field/searches/routes.js';
import { RegisterSearches } from './field/searches/service.js';
import { roundsRoutes } from './rounds/routes.js';
import { Rounds } from './rounds/service.js';
import { rightsRoutes } from './rights/routes.js';
import { RightsSnapshots } from './rights/snapshots.js';
import { GatewayEars } from './gateways/ears.js';
import { GatewayItems } from './gateways/items.js';
import { GatewayKeeping } from './gateways/keeping.js';
import { faceOf } from './gateways/store.js';
import { GatewayPlanning } from './gateways/planning.js';
import { RelayKeeping } from './gateways/relay-keeping.js';
import { gatewayRoutes } from './gateways/routes.js';
import { GatewayViews } from './gateways/views.js';
import { TunnelKeeping } from './tunnels/keeping.js';
import { otherEndOf } from './tunnels/store.js';
import { TunnelDesk } from './tunnels/orders/desk.js';
import type { TunnelJobs } from './tunnels/views/jobs.js';
import { tunnelRoutes } from './tunnels/views/routes.js';
import { searchRoutes } from './search/routes.js';
import { settingsRoutes, writeSettings } from './settings/routes.js';
import { Authorities } from './trust/authorities/authorities.js';
import { AuthoritySigning } from './trust/authorities/signing.js';
import { SignedElsewhere } from './trust/authorities/signed-elsewhere.js';
import { TrustCarrier } from './trust/push/carrier.js';
import { TrustEnds } from './trust/ends.js';
import { AccessDesk } from './accounts/access-desk.js';
import type { AccountJobs } from './accounts/jobs.js';
import { AccountDesk } from './accounts/orders/desk.js';
import { AccountPasswords } from './accounts/passwords.js';
import { UserCertificates } from './accounts/user-certificates.js';
import { accountRoutes } from './accounts/routes.js';
import { AdministratorSessions } from './administration/administrator-sessions.js';
import { PushDesk } from './trust/push/desk.js';
import { PullTickets } from './trust/authorities/pull-tickets.js';
import { CertificateRenewal } from './trust/authorities/renewal.js';
import type { TrustJobs } from './trust/jobs.js';
import { judgeAll } from './trust/judge-all.js';
import { trustRoutes } from './trust/routes.js';
import { Trust } from './trust/service.js';
import { Waivers } from './trust/waivers/waivers.js';
import { silenceLibrary } from './ua/quiet.js';

/** A check that waits this long without a job gets a new one. */
const orphanAfterMs = 10_000;
const evidenceLookMs = 3_600_000;

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
  const heavy = new HeavyWork<AllJobs>(
    new URL('./worker.js', import.meta.url),
    quickJobs,
    configuration.databaseUrl,
    logger,
  );
  const trustWork = heavy.part<TrustJobs>();
  const notices = new Notices(configuration.databaseUrl, logger);
  const events = new EventLog(db, notices, logger);
  const serverProcess = new ServerProcess(db, logger);
  const locks = new MachineLocks(db, serverProcess);
  const administrators = new AdministratorSessions(db, secrets, locks);
  const desk = new PushDesk(administrators);
  const carrier = new TrustCarrier(db, desk);
  const accessDesk = new AccessDesk(db, administrators, events);
  const accountPasswords = new AccountPasswords(db, secrets);
  const orders = new WorkOrders(db, heavy.part<OrderJobs>(), events);
  const outpostLines = new OutpostLines(db, serverProcess, events, logger);
  const remoteDevices = new RemoteDevices(db, outpostLines);
  const remoteWalks = new RemoteWalks(db, outpostLines, remoteDevices);
  outpostLines.hearing('probe', remoteWalks);
  const runner = new CheckRunner(
    db,
    secrets,
    events,
    logger,
    serverProcess,
    locks,
    (serverId, signal) => carrier.listsForCheck(serverId, signal),
    (subjectId) => orders.proveAbout(subjectId),
    remoteWalks,
    (linkIds, askedBy) => links.askAfresh(linkIds, askedBy),
  );
  const queue = new CheckQueue(configuration.databaseUrl, logger);
  const links = new Links(db, secrets, queue, runner, events);
  const release = new PasswordRelease(db, secrets);
  const recordings = new Recordings(join(configuration.dataFolder, 'recordings'));
  const evidenceFiles = new EvidenceFiles(join(configuration.dataFolder, 'casebook'));
  const evidenceReader = new EvidenceReader(db, evidenceFiles, heavy.part<CasebookJobs>(), events, logger);
  const evidence = new EvidenceKeeping(db, evidenceFiles, evidenceReader, events);
  const readingRules = new ReadingRules(db, (evidenceIds) => evidence.readAgain(evidenceIds));
  const rounds = new Rounds(db, links, events, logger);
  const recipients = new Recipients(db, secrets, events, logger);
  const benches = new Benches(db, secrets, links, locks, recordings);
  const searches = new RegisterSearches(db, secrets, locks, heavy.part<FieldJobs>(), remoteDevices);
  const secondFactor = new SecondFactor(secrets);
  const people = new People(db, secondFactor, () => events.newestId());
  const accounts = new Accounts(db, secondFactor);
  const streams = new Streams();
  const discovery = new Discovery(db, events, locks, (machineId, goesThere) =>
    accountOnMachine(db, secrets, machineId, goesThere),
  );
  const signing = new AuthoritySigning(db, secrets, trustWork, events);
  const renewal = new CertificateRenewal(db, secrets, desk, carrier, signing);
  const afterReading = (): Promise<void> => orders.proveAll();
  const trust = new Trust(db, secrets, release, carrier, events, trustWork, afterReading);
  const proof = new RenewalProof(links, carrier);
  const askForChecks = async (linkIds: readonly string[], actor: string): Promise<void> => {
    await links
      .askAfresh(linkIds, actor)
      .catch((error: unknown) => logger.warn({ err: error }, 'links could not be checked after a change'));
  };
  const tunnelKeeping = new TunnelKeeping(db, events, askForChecks, (outpostId) => orders.proveAbout(outpostId));
  const desks = {
    trust: new TrustDesk(db, carrier, renewal, proof, () => trustWork.run('trustLinks', undefined)),
    entry: new DoorDesk(),
    accounts: new AccountDesk(db, accessDesk, accountPasswords),
    dcom: new DcomDesk(),
    passage: new PassageDesk(),
    tunnels: new TunnelDesk(tunnelKeeping),
    field: new MappingDesk(),
  };
  const floors = new Floors(db, events, askForChecks);
  const orderCarrier = new OrderCarrier(db, serverProcess, orders, desks, askForChecks, events, logger);
  const undoing = new OrderUndoing(db, serverProcess, orders, desks, askForChecks);
  const waivers = new Waivers(db, events, async (met, actor) =>
    links.askAfresh(await trustWork.run('linksThatMeet', met), actor),
  );

  const enrolment: Enrolment = new Enrolment(db, signing, events, () => outpostDoor, otherEndOf);
  outpostLines.hearing('tunnel-end', tunnelKeeping);
  const gatewayPlanning = new GatewayPlanning(db, secrets);
  const gatewayItems = new GatewayItems(db, outpostLines);
  const gatewayEars = new GatewayEars(db, gatewayPlanning, gatewayItems);
  outpostLines.hearing('gateway', gatewayEars);

  serverProcess.clearingBy(() => runner.failInterrupted());
  const snapshots = new RightsSnapshots(db, secrets, locks, serverProcess, events, logger);
  const listening = new ServerListening(db, administrators, events, logger);
  serverProcess.clearingBy(() => orderCarrier.releaseInterrupted());
  serverProcess.clearingBy(() => snapshots.endOrphaned());
  await serverProcess.join();
  notices.hear((notice) => {
    if (notice.kind === 'cancel') runner.cancel(notice.checkId);
    if (notice.kind === 'sign-ins-ended') streams.lookAgain();
  });
  void secrets.markAll(db).catch((error: unknown) => logger.warn({ err: error }, 'secrets could not be marked'));
  await seals.start();
  await events.start();
  await notices.start();
  outpostLines.start(notices);
  gatewayItems.start(notices);
  gatewayEars.start(notices, outpostLines);
  await queue.start();
  // A check whose job got lost with the last server gets a new one; a second job for the same check does nothing.
  await queue.add(await orphanedChecks(db, 0));
  const background =
    configuration.role === 'web'
      ? null
      : {
          retention: new Retention(db, logger),
          trustEnds: new TrustEnds(db, carrier, waivers, events, logger),
          floorEnds: new FloorEnds(floors, logger),
          watchedFolder: new WatchedFolder(configuration.watchedFolder, evidence, logger),
          syslog: new SyslogReceiver(
            join(configuration.dataFolder, 'syslog'),
            db,
            evidence,
            logger,
            configuration.syslogGatherMs,
          ),
          evidenceEnds: new RegularLook(
            evidenceLookMs,
            () => evidence.forgetOld(),
            (reason) => logger.warn({ reason }, 'old captures and logs could not be let go; it is tried again'),
          ),
        };
  if (background) {
    void background.retention.look();
    void evidenceReader.resume();
    await background.watchedFolder.start();
    background.syslog.start();
    background.evidenceEnds.now();
    rounds.start();
    recipients.start();
    queue.work((checkId) => runner.run(checkId));
  }
  remoteWalks.whenAny((isAny) => {
    if (isAny) queue.workForProbes((checkId) => runner.run(checkId, 'of probes here'));
    else queue.restFromProbes();
  });
  const sweeper = setInterval(() => {
    orphanedChecks(db, orphanAfterMs)
      .then((checkIds) => queue.add(checkIds.filter((checkId) => !runner.has(checkId))))
      .catch((error: unknown) => logger.warn({ reason: String(error) }, 'lost checks could not be looked for'));
  }, orphanAfterMs);

  const proposals = new Proposals(db, async ({ id, body, proposedBy }) => {
    if (body.kind === 'plant') await heavy.part<PlantJobs>().run('replacePlant', { proposalId: id });
    else if (body.kind === 'waiver') await waivers.give(body.wish, proposedBy);
    else if (body.kind === 'floor') await floors.set(body.floor, proposedBy);
    else if (body.kind === 'exception') await floors.give(body.wish, proposedBy);
    else await writeSettings(db, { approvedByAnother: body.approvedByAnother }, proposedBy);
  });

  const health = async (): Promise<Health> => {
    const [database, queueUp] = await Promise.all([isUp(), queue.isUp()]);
    const up = (isUp: boolean): 'up' | 'down' => (isUp ? 'up' : 'down');
    return {
      status: database && queueUp ? 'well' : 'unwell',
      database: up(database),
      queue: up(queueUp),
    };
  };
  const tls = configuration.tlsFolder === null ? null : await OwnTls.open(configuration.tlsFolder);
  const servesPeople = configuration.role !== 'worker';
  const outpostDoor: OutpostDoor | null = servesPeople
    ? await OutpostDoor.open(configuration.outposts, db, secrets, outpostLines, enrolment, notices, logger)
    : null;
  if (servesPeople) void judgeBeforehand(db, trustWork).catch(() => undefined);
  const app = await makeApp({
    logger,
    isSecure: tls !== null,
    webFolder: servesPeople ? configuration.webFolder : null,
    health,
    routes: (router) => {
      // A worker tells its health, and nothing else.
      if (!servesPeople) return;
      const findActor = findActorBy(people);
      peopleRoutes(router, people, accounts, findActor);
      auditRoutes(router, findActor, db, heavy.part<AuditJobs>(), sealMaker, configuration.anchors);
      linkRoutes(router, findActor, links, db);
      certificateRoutes(router, findActor, db);
      mendingRoutes(router, findActor, new Mending(db, secrets, links, carrier, release, orders, trustWork));
      plantRoutes(router, findActor, new PlantKeeping(db, events), heavy.part<PlantJobs>());
      discoveryRoutes(router, findActor, discovery);
      searchRoutes(router, findActor, db, (wish) => trustWork.run('certificatesNamed', wish));
      settingsRoutes(
        router,
        findActor,
        db,
        new Identities(db, secrets, signing, events, (clientId) => faceOf(db, clientId)),
      );
      benchRoutes(router, findActor, benches, recordings, streams);
      trustRoutes(router, findActor, {
        trust,
        heavy: trustWork,
        authorities: new Authorities(db, secrets, trustWork, signing),
        signing,
        elsewhere: new SignedElsewhere(db, renewal, orders, events),
        pull: new PullTickets(db, signing, events),
        orders,
        waivers,
      });
      entryRoutes(router, findActor, heavy.part<EntryJobs>(), floors);
      orderRoutes(router, findActor, orders, orderCarrier, undoing);
      accountRoutes(
        router,
        findActor,
        heavy.part<AccountJobs>(),
        accessDesk,
        accountPasswords,
        new UserCertificates(db, secrets, events),
      );
      rightsRoutes(router, findActor, db, heavy.part<RightsJobs>(), snapshots);
      casebookRoutes(router, findActor, heavy.part<CasebookJobs>(), evidence, new CaseActs(db, events), readingRules);
      handOutRoutes(router, findActor, heavy.part<HandOutJobs>());
      recipientRoutes(router, findActor, recipients);
      roundsRoutes(router, findActor, rounds, heavy.part<RoundsJobs>());
      originRoutes(router, findActor, new Origins(db));
      registerSearchRoutes(router, findActor, searches);
      deviceRoutes(router, findActor, db, new DeviceReadings(db, locks, remoteDevices));
      dcomRoutes(router, findActor, heavy.part<DcomJobs>(), events, afterReading);
      passageRoutes(router, findActor, db, heavy.part<PassageJobs>(), events, afterReading);
      const door = () => ({ port: outpostDoor?.port ?? null, says: outpostDoor?.says ?? null });
      outpostRoutes(router, findActor, enrolment);
      probeRoutes(router, findActor, db, new ProbeKeeping(db, events), door);
      tunnelRoutes(router, findActor, heavy.part<TunnelJobs>(), tunnelKeeping, door, (order, actor) =>
        orders.propose(order, actor),
      );
      gatewayRoutes(
        router,
        findActor,
        {
          keeping: new GatewayKeeping(db, events),
          relays: new RelayKeeping(db, events),
          views: new GatewayViews(db, gatewayPlanning),
          items: gatewayItems,
        },
        door,
      );
      reportRoutes(router, findActor, listening);
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
      outpostDoor?.stop();
      outpostLines.stop();
      background?.trustEnds.stop();
      background?.floorEnds.stop();
      background?.retention.stop();
      await background?.watchedFolder.stop();
      await background?.syslog.stop();
      await background?.evidenceEnds.stop();
      events.stop();
      await notices.stop();
      discovery.stop();
      server.close();
      recordings.stopAll();
      evidenceReader.stop();
      await rounds.stop();
      await recipients.stop();
      benches.closeAll();
      searches.stop();
      runner.cancelAll();
      await queue.stop();
      await orderCarrier.settle();
      await snapshots.settle();
      await listening.settle();
      await heavy.stop();
      await seals.stop();
      server.closeAllConnections();
      await serverProcess.leave().catch(() => undefined);
      await close();
    },
  };
}

/** Plants with fewer links are judged while somebody waits. */
const large = 2000;

/** The trust of a large plant is judged once before anybody asks: the first who did would wait for many seconds. */
async function judgeBeforehand(db: Database, trust: Runs<TrustJobs>): Promise<void> {
  if ((await db.$count(linksTable)) >= large) await judgeAll(trust);
}
