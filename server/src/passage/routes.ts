import type { Router } from 'express';
import { appendAudit } from '../audit/trail.js';
import type { Database, Queryable } from '../database/database.js';
import type { EventLog } from '../events/event-log.js';
import type { Runs } from '../heavy/jobs.js';
import { notFound } from '../http/problems.js';
import { serve, serveLarge, serveText } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import { freeId } from '../system/free-id.js';
import { knownPlaces, refuseUnfitConduit, refuseUnfitFirewall, refuseUnfitService } from './fit.js';
import type { KnownPlaces } from './fit.js';
import type { PassageJobs } from './jobs.js';
import {
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
  const tell = (): Promise<unknown> => events.tell({ kind: 'passage-changed' });
  const change: Change = async (actor, action, subject, carry) => {
    const told = await db.transaction(async (tx) => {
      const done = await carry(tx);
      await appendAudit(tx, { actor, action, subject, details: {} });
      return done;
    });
    await tell();
    return told;
  };

  serve(router, findActor, 'passage', ({ signal }) => heavy.run('passageView', undefined, signal));
  serveText(router, findActor, 'exportPassage', async ({ response, signal }) => {
    const document = await heavy.run('exportPassage', undefined, signal);
    response.attachment('firewalls.json');
    return document;
  });
  serveLarge(router, findActor, 'importPassage', async ({ text, signal }, { name: actor }) => {
    const counts = await heavy.run('importPassage', { text, actor }, signal);
    await tell();
    await afterImport();
    return counts;
  });
  serve(router, findActor, 'firewall', ({ params, signal }) =>
    heavy.run('firewallView', { firewallId: firewallIn(params) }, signal),
  );
  const firewalls = kept(db, change, {
    word: 'firewall',
    read: readFirewalls,
    refuse: refuseUnfitFirewall,
    put: putFirewall,
    remove: removeFirewall,
  });
  serve(router, findActor, 'addFirewall', firewalls.add);
  serve(router, findActor, 'putFirewall', firewalls.put);
  serve(router, findActor, 'removeFirewall', firewalls.remove);
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
  const conduits = kept(db, change, {
    word: 'conduit',
    read: readConduits,
    refuse: refuseUnfitConduit,
    put: putConduit,
    remove: removeConduit,
  });
  serve(router, findActor, 'addConduit', conduits.add);
  serve(router, findActor, 'putConduit', conduits.put);
  serve(router, findActor, 'removeConduit', conduits.remove);
  const services = kept(db, change, {
    word: 'service',
    read: readServices,
    refuse: refuseUnfitService,
    put: putService,
    remove: removeService,
  });
  serve(router, findActor, 'addService', services.add);
  serve(router, findActor, 'putService', services.put);
  serve(router, findActor, 'removeService', services.remove);
}

/** Changes what is known, writes it into the trail in the same transaction, and tells all pages. */
type Change = <Told>(
  actor: string,
  action: string,
  subject: string,
  carry: (tx: Queryable) => Promise<Told>,
) => Promise<Told>;
type Params = Readonly<Record<string, string>>;
interface Actor {
  readonly name: string;
}

/** How one kind of thing is added, changed and removed. */
function kept<Wish extends { readonly name: string }>(
  db: Database,
  change: Change,
  {
    word,
    read,
    refuse,
    put,
    remove,
  }: {
    readonly word: 'firewall' | 'conduit' | 'service';
    readonly read: (db: Queryable) => Promise<readonly { readonly id: string }[]>;
    /** @param own the id of the one that is changed; null: it is new */
    readonly refuse: (known: KnownPlaces, wish: Wish, own: string | null) => void;
    readonly put: (tx: Queryable, row: Wish & { readonly id: string }) => Promise<void>;
    readonly remove: (tx: Queryable, id: string) => Promise<boolean>;
  },
) {
  const idIn = (params: Params): string => params[`${word}Id`] ?? '';
  const keep = (actor: string, done: string, id: string, wish: Wish): Promise<{ id: string }> =>
    change(actor, `${word} ${done}`, id, async (tx) => {
      await put(tx, { ...wish, id });
      return { id };
    });
  return {
    add: async ({ body }: { readonly body: Wish }, { name }: Actor) => {
      refuse(await knownPlaces(db), body, null);
      const taken = (await read(db)).map(({ id }) => id);
      return keep(name, 'added', freeId(body.name, taken), body);
    },
    put: async ({ params, body }: { readonly params: Params; readonly body: Wish }, { name }: Actor) => {
      const id = idIn(params);
      if (!(await read(db)).some((each) => each.id === id)) throw notFound(word, id);
      refuse(await knownPlaces(db), body, id);
      return keep(name, 'changed', id, body);
    },
    remove: ({ params }: { readonly params: Params }, { name }: Actor) =>
      change(name, `${word} removed`, idIn(params), async (tx) => {
        if (!(await remove(tx, idIn(params)))) throw notFound(word, idIn(params));
        return {};
      }),
  };
}
