import type { Router } from 'express';
import type { ConduitWish, FirewallWish, ServiceWish } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database, Queryable } from '../database/database.js';
import type { EventLog } from '../events/event-log.js';
import type { Runs } from '../heavy/jobs.js';
import { invalid, notFound } from '../http/problems.js';
import { serve, serveLarge } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import { freeId } from '../system/free-id.js';
import { findMachine } from '../plant/part.js';
import type { PassageJobs } from './jobs.js';
import {
  findFirewall,
  missingFirewalls,
  missingZones,
  putConduit,
  putFirewall,
  putService,
  readConduits,
  readFirewalls,
  readServices,
  removeConduit,
  removeFirewall,
  removeService,
} from './store.js';

/** @param afterImport called once new rules of a firewall are known */
export function passageRoutes(
  router: Router,
  findActor: FindActor,
  db: Database,
  heavy: Runs<PassageJobs>,
  events: EventLog,
  afterImport: () => Promise<void>,
): void {
  const firewallIn = (params: Readonly<Record<string, string>>): string => params['firewallId'] ?? '';
  const conduitIn = (params: Readonly<Record<string, string>>): string => params['conduitId'] ?? '';
  const serviceIn = (params: Readonly<Record<string, string>>): string => params['serviceId'] ?? '';
  const tell = (): Promise<unknown> => events.tell({ kind: 'passage-changed' });
  /** Changes what is known, writes it into the trail in the same transaction, and tells all pages. */
  const change = async <Told>(
    actor: string,
    action: string,
    subject: string,
    carry: (tx: Queryable) => Promise<Told>,
  ): Promise<Told> => {
    const told = await db.transaction(async (tx) => {
      const done = await carry(tx);
      await appendAudit(tx, { actor, action, subject, details: {} });
      return done;
    });
    await tell();
    return told;
  };

  serve(router, findActor, 'passage', ({ signal }) => heavy.run('passageView', undefined, signal));
  serve(router, findActor, 'firewall', ({ params, signal }) =>
    heavy.run('firewallView', { firewallId: firewallIn(params) }, signal),
  );
  serve(router, findActor, 'addFirewall', async ({ body }, { name }) => {
    await refuseUnfitFirewall(db, body);
    const id = freeId(
      body.name,
      (await readFirewalls(db)).map((each) => each.id),
    );
    return change(name, 'firewall added', id, async (tx) => {
      await putFirewall(tx, { id, ...body });
      return { id };
    });
  });
  serve(router, findActor, 'putFirewall', async ({ params, body }, { name }) => {
    const id = firewallIn(params);
    if (!(await findFirewall(db, id))) throw notFound('firewall', id);
    await refuseUnfitFirewall(db, body);
    return change(name, 'firewall changed', id, async (tx) => {
      await putFirewall(tx, { id, ...body });
      return { id };
    });
  });
  serve(router, findActor, 'removeFirewall', ({ params }, { name }) =>
    change(name, 'firewall removed', firewallIn(params), async (tx) => {
      if (!(await removeFirewall(tx, firewallIn(params)))) throw notFound('firewall', firewallIn(params));
      return {};
    }),
  );
  serveLarge(router, findActor, 'importRules', async ({ text, params, signal }, { name: actor }) => {
    const view = await heavy.run('importRules', { firewallId: firewallIn(params), text, actor }, signal);
    await tell();
    await afterImport();
    return view;
  });
  serve(router, findActor, 'rulesWhatIf', ({ params, body, signal }) =>
    heavy.run('rulesWhatIf', { firewallId: firewallIn(params), edits: body.edits }, signal),
  );
  serve(router, findActor, 'conduitWidths', ({ signal }) => heavy.run('conduitWidths', undefined, signal));
  serve(router, findActor, 'addConduit', async ({ body }, { name }) => {
    await refuseUnfitConduit(db, body, null);
    const id = freeId(
      body.name,
      (await readConduits(db)).map((each) => each.id),
    );
    return change(name, 'conduit added', id, async (tx) => {
      await putConduit(tx, { id, ...body });
      return { id };
    });
  });
  serve(router, findActor, 'putConduit', async ({ params, body }, { name }) => {
    const id = conduitIn(params);
    if (!(await readConduits(db)).some((each) => each.id === id)) throw notFound('conduit', id);
    await refuseUnfitConduit(db, body, id);
    return change(name, 'conduit changed', id, async (tx) => {
      await putConduit(tx, { id, ...body });
      return { id };
    });
  });
  serve(router, findActor, 'removeConduit', ({ params }, { name }) =>
    change(name, 'conduit removed', conduitIn(params), async (tx) => {
      if (!(await removeConduit(tx, conduitIn(params)))) throw notFound('conduit', conduitIn(params));
      return {};
    }),
  );
  serve(router, findActor, 'addService', async ({ body }, { name }) => {
    await refuseUnfitService(db, body);
    const id = freeId(
      body.name,
      (await readServices(db)).map((each) => each.id),
    );
    return change(name, 'service added', id, async (tx) => {
      await putService(tx, { id, ...body });
      return { id };
    });
  });
  serve(router, findActor, 'putService', async ({ params, body }, { name }) => {
    const id = serviceIn(params);
    if (!(await readServices(db)).some((each) => each.id === id)) throw notFound('service', id);
    await refuseUnfitService(db, body);
    return change(name, 'service changed', id, async (tx) => {
      await putService(tx, { id, ...body });
      return { id };
    });
  });
  serve(router, findActor, 'removeService', ({ params }, { name }) =>
    change(name, 'service removed', serviceIn(params), async (tx) => {
      if (!(await removeService(tx, serviceIn(params)))) throw notFound('service', serviceIn(params));
      return {};
    }),
  );
}

async function refuseMissingMachine(db: Queryable, machineId: string): Promise<void> {
  if (!(await findMachine(db, machineId)))
    throw invalid(`There is no machine “${machineId}”.`, [
      { place: 'machineId', says: 'Choose a machine of the plant.' },
    ]);
}

async function refuseUnfitService(db: Queryable, { machineId, zoneIds }: ServiceWish): Promise<void> {
  await refuseMissingMachine(db, machineId);
  const [missing] = await missingZones(db, zoneIds);
  if (missing !== undefined)
    throw invalid(`There is no zone “${missing}”.`, [{ place: 'zoneIds', says: 'Choose zones of the plant.' }]);
}

async function refuseUnfitFirewall(db: Queryable, { machineId, interfaces }: FirewallWish): Promise<void> {
  if (machineId !== null) await refuseMissingMachine(db, machineId);
  const [missing] = await missingZones(
    db,
    interfaces.map(({ zoneId }) => zoneId),
  );
  if (missing !== undefined)
    throw invalid(`There is no zone “${missing}”.`, [{ place: 'interfaces', says: 'Choose a zone of the plant.' }]);
}

async function refuseUnfitConduit(
  db: Queryable,
  { fromZoneId, toZoneId, firewallIds }: ConduitWish,
  own: string | null,
): Promise<void> {
  const [zone] = await missingZones(db, [fromZoneId, toZoneId]);
  if (zone !== undefined)
    throw invalid(`There is no zone “${zone}”.`, [{ place: 'fromZoneId', says: 'Choose a zone of the plant.' }]);
  const [firewall] = await missingFirewalls(db, firewallIds);
  if (firewall !== undefined)
    throw invalid(`There is no firewall “${firewall}”.`, [
      { place: 'firewallIds', says: 'Choose firewalls of the plant.' },
    ]);
  const other = (await readConduits(db)).find(
    (each) => each.id !== own && each.fromZoneId === fromZoneId && each.toZoneId === toZoneId,
  );
  if (other)
    throw invalid(`“${other.name}” already leads from the one zone to the other.`, [
      { place: 'toZoneId', says: `“${other.name}” already leads there.` },
    ]);
}
