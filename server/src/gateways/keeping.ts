import { randomUUID } from 'node:crypto';
import { isAddressLiteral } from '@loyal-hinge/core';
import type { GatewayWish, PlaceOfGateway } from '@loyal-hinge/contract';
import type { Database, Queryable } from '../database/database.js';
import { applications, outposts } from '../database/schema.js';
import type { EventLog } from '../events/event-log.js';
import { conflict, invalid } from '../http/problems.js';
import { findMachine } from '../plant/part.js';
import { putApplication, removePart } from '../plant/store.js';
import { noteReading } from '../trust/lists/readings.js';
import { noLists } from '../trust/lists/store.js';
import { freeId } from '../system/free-id.js';
import { changeGateway, knownGateway } from './change-gateway.js';
import type { Kept } from './change-gateway.js';
import { classicEndsOf, endsOf, gatewayIdIn } from './ends.js';
import { knownGateways, putGateway, removeGateway, setPlaces } from './store.js';
import type { KnownGateway } from './store.js';

const loopback = (address: string): boolean => address.startsWith('127.') || address === '::1';

/** Gateways as they are wanted: a client and a server of the plant on a machine, and where they show items. */
export class GatewayKeeping implements Kept {
  constructor(
    readonly db: Database,
    readonly events: EventLog,
  ) {}

  async add(wish: GatewayWish, actor: string): Promise<{ readonly id: string }> {
    await this.refuseUnfit(wish, null);
    const [others, applied] = await Promise.all([
      this.db.select({ id: outposts.id }).from(outposts),
      this.db.select({ id: applications.id }).from(applications),
    ]);
    const taken = [...others, ...applied].map((each) => gatewayIdIn(each.id));
    const id = freeId(wish.name, taken);
    await changeGateway(this, actor, 'gateway added', id, async (tx) => {
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
    const known = await knownGateway(this.db, id);
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
    await changeGateway(this, actor, 'gateway changed', id, async (tx) => {
      await this.put(tx, id, wish, known);
    });
    await this.events.tell({ kind: 'plant-changed' });
  }

  async remove(id: string, actor: string): Promise<void> {
    const { sources, readers, client, server, classic } = await knownGateway(this.db, id);
    const [left] = [...sources, ...readers];
    if (left)
      throw conflict(
        `${left.link.name} still begins or ends at this gateway.`,
        'Remove its links first, on the page Plant.',
      );
    await changeGateway(this, actor, 'gateway removed', id, async (tx) => {
      await removeGateway(tx, id);
      for (const each of [client, server, ...(classic ? [classic.client, classic.server] : [])])
        await removePart(tx, 'applications', each.id);
    });
    await this.events.tell({ kind: 'plant-changed' });
  }

  async putPlaces(id: string, places: readonly PlaceOfGateway[], actor: string): Promise<void> {
    const { sources } = await knownGateway(this.db, id);
    places.forEach(({ linkId }, index) => {
      if (!sources.some(({ link }) => link.id === linkId))
        throw invalid(`This gateway has no link “${linkId}” to a server.`, [
          { place: `places.${index}.linkId`, says: 'Choose a link of the gateway.' },
        ]);
    });
    await changeGateway(this, actor, 'gateway places changed', id, (tx) => setPlaces(tx, id, places));
  }

  /** @returns the id of its server */
  private async put(tx: Queryable, id: string, wish: GatewayWish, before: KnownGateway | null): Promise<string> {
    const { name, machineId, address, port, mapperPort } = wish;
    const { client, server } = endsOf(id, wish);
    const classic = mapperPort === null ? null : classicEndsOf(id, wish, mapperPort);
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
}
