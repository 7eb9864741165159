import { randomUUID } from 'node:crypto';
import { isAddressLiteral } from '@loyal-hinge/core';
import type { ClientApplication, ServerApplication } from '@loyal-hinge/core';
import type { GatewayWish, PlaceOfGateway, RelayOfGateway, RelayWish } from '@loyal-hinge/contract';
import type { FromOutpost, FromServer } from '@loyal-hinge/contract/line';
import { appendAudit } from '../audit/trail.js';
import type { Database, Queryable } from '../database/database.js';
import { applications, outposts } from '../database/schema.js';
import type { EventLog } from '../events/event-log.js';
import { tellOutpost } from '../events/notices.js';
import type { Notices } from '../events/notices.js';
import { conflict, invalid, notFound } from '../http/problems.js';
import type { OutpostEars, OutpostLines } from '../outposts/lines.js';
import { changeOutpost } from '../outposts/store.js';
import type { OutpostRow } from '../outposts/store.js';
import { findMachine } from '../plant/part.js';
import { putApplication, removePart } from '../plant/store.js';
import { noteReading } from '../trust/lists/readings.js';
import { noLists } from '../trust/lists/store.js';
import { freeId } from '../system/free-id.js';
import { faultsAmong } from './configured.js';
import type { GatewayItems } from './items.js';
import type { GatewayPlanning } from './planning.js';
import { csvOfRelays, relaysInCsv } from './relays-csv.js';
import { gatewaysOf, knownGateways, putGateway, putRelay, removeGateway, removeRelay, setPlaces } from './store.js';
import type { KnownGateway } from './store.js';

/** What the ids of its client and its server end with. */
const ofItsEnds = /-(reads|shows|reads-classic|shows-classic)$/;
const loopback = (address: string): boolean => address.startsWith('127.') || address === '::1';

/** Gateways as they are wanted: a client and a server of the plant on a machine, and what is told to the process there. */
export class GatewayKeeping implements OutpostEars {
  constructor(
    private readonly db: Database,
    private readonly events: EventLog,
    private readonly planning: GatewayPlanning,
    private readonly items: GatewayItems,
  ) {}

  /** Gateways that are connected here hear at once of what is kept for their applications and links. */
  start(notices: Notices, lines: Pick<OutpostLines, 'has' | 'look'>): void {
    notices.hear((notice) => {
      if (notice.kind !== 'held') return;
      gatewaysOf(this.db, notice.subjectId)
        .then((ids) => Promise.all(ids.filter((id) => lines.has(id)).map((id) => lines.look(id))))
        .catch(() => undefined);
    });
  }

  async add(wish: GatewayWish, actor: string): Promise<{ readonly id: string }> {
    await this.refuseUnfit(wish, null);
    const [others, applied] = await Promise.all([
      this.db.select({ id: outposts.id }).from(outposts),
      this.db.select({ id: applications.id }).from(applications),
    ]);
    const taken = [...others, ...applied].map((each) => each.id.replace(ofItsEnds, ''));
    const id = freeId(wish.name, taken);
    await this.change(actor, 'gateway added', id, async (tx) => {
      const serverId = await this.put(tx, id, wish, null);
      // Whom its face trusts is kept here, and nowhere else: nobody, so far.
      const readAt = new Date().toISOString();
      await noteReading(tx, serverId, {
        source: 'tried',
        by: 'the product itself',
        readAt,
        fault: null,
        lists: noLists,
      });
    });
    await this.events.tell({ kind: 'plant-changed' });
    return { id };
  }

  async putOne(id: string, wish: GatewayWish, actor: string): Promise<void> {
    const known = await this.known(id);
    await this.refuseUnfit(wish, id);
    if (known.machine.id !== wish.machineId && known.outpost.thumbprint !== null)
      throw conflict(
        `${known.outpost.name} has its certificate on ${known.machine.name}.`,
        'Remove it, and add another one there.',
      );
    const left = [...known.sources, ...known.readers].find(({ link }) => link.kind === 'classic');
    if (wish.mapperPort === null && left)
      throw conflict(
        `${left.link.name} is a link of classic OPC.`,
        'Remove its classic links first, on the page Plant.',
      );
    await this.change(actor, 'gateway changed', id, async (tx) => {
      await this.put(tx, id, wish, known);
    });
    await this.events.tell({ kind: 'plant-changed' });
  }

  async remove(id: string, actor: string): Promise<void> {
    const { sources, readers, client, server, classic } = await this.known(id);
    const [left] = [...sources, ...readers];
    if (left)
      throw conflict(
        `${left.link.name} still begins or ends at this gateway.`,
        'Remove its links first, on the page Plant.',
      );
    await this.change(actor, 'gateway removed', id, async (tx) => {
      await removeGateway(tx, id);
      for (const each of [client, server, ...(classic ? [classic.client, classic.server] : [])])
        await removePart(tx, 'applications', each.id);
    });
    await this.events.tell({ kind: 'plant-changed' });
  }

  async putPlaces(id: string, places: readonly PlaceOfGateway[], actor: string): Promise<void> {
    const { sources } = await this.known(id);
    places.forEach(({ linkId }, index) => {
      if (!sources.some(({ link }) => link.id === linkId))
        throw invalid(`This gateway has no link “${linkId}” to a server.`, [
          { place: `places.${index}.linkId`, says: 'Choose a link of the gateway.' },
        ]);
    });
    await this.change(actor, 'gateway places changed', id, (tx) => setPlaces(tx, id, places));
  }

  async addRelay(id: string, wish: RelayWish, actor: string): Promise<{ readonly id: string }> {
    const known = await this.known(id);
    const name = wish.to.path.split('/').at(-1) ?? wish.to.path;
    const relayId = freeId(
      name,
      known.relays.map((relay) => relay.id),
    );
    await this.takeRelays(known, [{ id: relayId, ...wish }], actor, 'relay added', relayId);
    return { id: relayId };
  }

  async putRelay(id: string, relayId: string, wish: RelayWish, actor: string): Promise<void> {
    const known = await this.known(id);
    if (!known.relays.some((relay) => relay.id === relayId)) throw notFound('relay', relayId);
    await this.takeRelays(known, [{ id: relayId, ...wish }], actor, 'relay changed', relayId);
  }

  async removeRelay(id: string, relayId: string, actor: string): Promise<void> {
    const known = await this.known(id);
    if (!known.relays.some((relay) => relay.id === relayId)) throw notFound('relay', relayId);
    await this.change(actor, 'relay removed', `${id} ${relayId}`, (tx) => removeRelay(tx, id, relayId), id);
  }

  relaysCsv = async (id: string): Promise<{ readonly csv: string }> => ({
    csv: csvOfRelays((await this.known(id)).relays),
  });

  async importRelays(id: string, csv: string, actor: string): Promise<{ readonly relays: number }> {
    const known = await this.known(id);
    const read = relaysInCsv(csv);
    if (!read.ok)
      throw invalid(
        `${read.faults[0]?.place ?? ''}: ${read.faults[0]?.says ?? ''} Nothing was imported.`,
        read.faults.slice(0, 50),
      );
    await this.takeRelays(known, read.relays, actor, 'relays imported', id);
    return { relays: read.relays.length };
  }

  async wanted({ id }: OutpostRow): Promise<readonly FromServer[]> {
    const [known] = await knownGateways(this.db, id);
    return known ? [await this.planning.messageFor(known)] : [{ kind: 'removed', says: 'This gateway was removed.' }];
  }

  async told(outpost: OutpostRow, message: FromOutpost): Promise<boolean> {
    if (message.kind === 'items') await this.items.answered(outpost.id, message.askId, message.told);
    if (message.kind !== 'gateway') return false;
    const before = outpost.told?.kind === 'gateway' ? outpost.told : null;
    await changeOutpost(this.db, outpost.id, { told: message });
    // With what it holds, keys and passwords went to its machine.
    if (message.revision !== null && message.revision !== '' && before?.revision !== message.revision)
      await this.db.transaction((tx) =>
        appendAudit(tx, {
          actor: 'outpost',
          action: 'gateway holds what it was told',
          subject: outpost.id,
          details: { revision: message.revision, servers: message.statistics?.sources.map(({ name }) => name) ?? [] },
        }),
      );
    return (
      before?.revision !== message.revision || before.fault !== message.fault || statesOf(before) !== statesOf(message)
    );
  }

  private async takeRelays(
    { outpost: { id }, sources, relays }: KnownGateway,
    wanted: readonly RelayOfGateway[],
    actor: string,
    action: string,
    subject: string,
  ): Promise<void> {
    for (const relay of wanted)
      for (const end of ['to', 'from'] as const)
        if (!sources.some(({ link }) => link.id === relay[end].linkId))
          throw invalid(`This gateway has no link “${relay[end].linkId}” to a server.`, [
            { place: `${end}.linkId`, says: 'Choose a link of the gateway.' },
          ]);
    const after = [...relays.filter((each) => !wanted.some((relay) => relay.id === each.id)), ...wanted];
    const [fault] = faultsAmong(after);
    if (fault !== undefined) throw invalid(fault, [{ place: 'to.path', says: fault }]);
    await this.change(
      actor,
      action,
      subject,
      async (tx) => {
        for (const { id: relayId, ...relay } of wanted) await putRelay(tx, id, relayId, relay);
      },
      id,
    );
  }

  /** @returns the id of its server */
  private async put(tx: Queryable, id: string, wish: GatewayWish, before: KnownGateway | null): Promise<string> {
    const { name, machineId, address, port, mapperPort } = wish;
    const { client, server } = applicationsOf(id, wish);
    const classic = mapperPort === null ? null : classicOf(id, wish, mapperPort);
    for (const each of [client, server, ...(classic ? [classic.client, classic.server] : [])])
      await putApplication(tx, each);
    await putGateway(tx, {
      id,
      name,
      machineId,
      clientId: client.id,
      serverId: server.id,
      address,
      port,
      classicClientId: classic?.client.id ?? null,
      classicServerId: classic?.server.id ?? null,
      mapperPort,
      clsid: classic ? (before?.classic?.clsid ?? randomUUID()) : null,
    });
    const gone = classic ? null : (before?.classic ?? null);
    for (const each of gone ? [gone.client, gone.server] : []) await removePart(tx, 'applications', each.id);
    return server.id;
  }

  private async refuseUnfit(
    { name, machineId, address, port, mapperPort }: GatewayWish,
    own: string | null,
  ): Promise<void> {
    const machine = await findMachine(this.db, machineId);
    if (!machine)
      throw invalid(`There is no machine “${machineId}”.`, [
        { place: 'machineId', says: 'Choose a machine of the plant.' },
      ]);
    if (isAddressLiteral(address) && !loopback(address) && !machine.addresses.includes(address)) {
      const says = `${machine.name} has no address ${address}.`;
      throw invalid(says, [{ place: 'address', says }]);
    }
    const others = (await knownGateways(this.db)).filter(({ outpost }) => outpost.id !== own);
    const same = others.find(({ outpost }) => outpost.name.toLowerCase() === name.toLowerCase());
    if (same)
      throw invalid(`There is a gateway “${same.outpost.name}” already.`, [
        { place: 'name', says: 'Choose another name.' },
      ]);
    if (mapperPort === port)
      throw invalid('OPC UA and classic OPC need a port each.', [
        { place: 'mapperPort', says: 'Choose another port.' },
      ]);
    const taken = others.find(
      (each) => each.machine.id === machineId && each.address === address && each.port === port,
    );
    if (taken)
      throw invalid(`“${taken.outpost.name}” listens there already.`, [
        { place: 'port', says: 'Choose another port.' },
      ]);
  }

  private async known(id: string): Promise<KnownGateway> {
    const [known] = await knownGateways(this.db, id);
    if (!known) throw notFound('gateway', id);
    return known;
  }

  private async change(
    actor: string,
    action: string,
    subject: string,
    carry: (tx: Queryable) => Promise<void>,
    gatewayId = subject,
  ): Promise<void> {
    await this.db.transaction(async (tx) => {
      await carry(tx);
      await appendAudit(tx, { actor, action, subject, details: {} });
      await tellOutpost(tx, gatewayId);
    });
    await this.events.tell({ kind: 'outposts-changed' });
  }
}

const statesOf = ({ statistics }: Extract<FromOutpost, { kind: 'gateway' }>): string =>
  JSON.stringify([statistics?.items, statistics?.sources.map(({ name, state, fault }) => [name, state, fault])]);

/** A gateway in the plant: a client that reads and a server that shows, one application with one URI. */
function applicationsOf(id: string, { name, machineId, port }: GatewayWish): Ends {
  const applicationUri = `urn:loyal-hinge:${id}`;
  return {
    client: {
      id: `${id}-reads`,
      kind: 'client',
      machineId,
      name: `${name}, reading`,
      applicationUri,
      securityPolicies: ['Basic256Sha256', 'Aes128_Sha256_RsaOaep', 'Aes256_Sha256_RsaPss'],
      securityModes: ['Sign', 'SignAndEncrypt'],
    },
    server: { id: `${id}-shows`, kind: 'server', machineId, name, applicationUri, ports: [port] },
  };
}

/** The same for classic OPC. */
const classicOf = (id: string, { name, machineId }: GatewayWish, mapperPort: number): Ends => ({
  client: {
    id: `${id}-reads-classic`,
    kind: 'client',
    machineId,
    name: `${name}, reading classic OPC`,
    applicationUri: '',
    securityPolicies: [],
    securityModes: [],
    speaks: 'classic',
  },
  server: {
    id: `${id}-shows-classic`,
    kind: 'server',
    machineId,
    name: `${name}, classic OPC`,
    applicationUri: '',
    ports: [mapperPort],
    speaks: 'classic',
  },
});

interface Ends {
  readonly client: ClientApplication;
  readonly server: ServerApplication;
}
