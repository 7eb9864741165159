import type { RelayOfGateway, RelayWish } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import type { EventLog } from '../events/event-log.js';
import { invalid, notFound } from '../http/problems.js';
import { freeId } from '../system/free-id.js';
import { changeGateway, knownGateway } from './change-gateway.js';
import type { Kept } from './change-gateway.js';
import { faultsAmong } from './configured.js';
import { csvOfRelays, relaysInCsv } from './relays-csv.js';
import { putRelay, removeRelay } from './store.js';
import type { KnownGateway } from './store.js';

/** Relays of gateways as they are wanted: one by one, or as CSV; looked at together before any is kept. */
export class RelayKeeping implements Kept {
  constructor(
    readonly db: Database,
    readonly events: EventLog,
  ) {}

  async add(id: string, wish: RelayWish, actor: string): Promise<{ readonly id: string }> {
    const known = await knownGateway(this.db, id);
    const name = wish.to.path.split('/').at(-1) ?? wish.to.path;
    const relayId = freeId(
      name,
      known.relays.map((relay) => relay.id),
    );
    await this.take(known, [{ id: relayId, ...wish }], actor, 'relay added', relayId);
    return { id: relayId };
  }

  async put(id: string, relayId: string, wish: RelayWish, actor: string): Promise<void> {
    const known = await knownGateway(this.db, id);
    if (!known.relays.some((relay) => relay.id === relayId)) throw notFound('relay', relayId);
    await this.take(known, [{ id: relayId, ...wish }], actor, 'relay changed', relayId);
  }

  async remove(id: string, relayId: string, actor: string): Promise<void> {
    const known = await knownGateway(this.db, id);
    if (!known.relays.some((relay) => relay.id === relayId)) throw notFound('relay', relayId);
    await changeGateway(this, actor, 'relay removed', `${id} ${relayId}`, (tx) => removeRelay(tx, id, relayId), id);
  }

  csv = async (id: string): Promise<{ readonly csv: string }> => ({
    csv: csvOfRelays((await knownGateway(this.db, id)).relays),
  });

  async takeCsv(id: string, csv: string, actor: string): Promise<{ readonly relays: number }> {
    const known = await knownGateway(this.db, id);
    const read = relaysInCsv(csv);
    if (!read.ok)
      throw invalid(
        `${read.faults[0]?.place ?? ''}: ${read.faults[0]?.says ?? ''} Nothing was imported.`,
        read.faults.slice(0, 50),
      );
    await this.take(known, read.relays, actor, 'relays imported', id);
    return { relays: read.relays.length };
  }

  private async take(
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
    await changeGateway(
      this,
      actor,
      action,
      subject,
      async (tx) => {
        for (const { id: relayId, ...relay } of wanted) await putRelay(tx, id, relayId, relay);
      },
      id,
    );
  }
}
