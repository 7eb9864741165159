import { asc } from 'drizzle-orm';
import { endpointName, signInNameOf } from '@loyal-hinge/core';
import type { Gateway, GatewaysView, GatewayView } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { machines } from '../database/schema.js';
import { notFound } from '../http/problems.js';
import { isHere, shownOutposts } from '../outposts/store.js';
import { mayWrite, programOfGateway, sourceName, whyReaderIsLeftOut, whySourceIsLeftOut } from './configured.js';
import type { GatewayPlanning, Planned } from './planning.js';
import { knownGateways } from './store.js';
import type { KnownGateway } from './store.js';

/** What pages show of gateways. */
export class GatewayViews {
  constructor(
    private readonly db: Database,
    private readonly planning: GatewayPlanning,
  ) {}

  async all(): Promise<Omit<GatewaysView, 'door'>> {
    const known = await knownGateways(this.db);
    const gateways = await Promise.all(known.map(async (each) => this.gatewayOf(each, await this.planning.plan(each))));
    return { gateways, machines: await this.machines() };
  }

  async one(id: string): Promise<Omit<GatewayView, 'door'>> {
    const [known] = await knownGateways(this.db, id);
    if (!known) throw notFound('gateway', id);
    const planned = await this.planning.plan(known);
    const statistics = toldBy(known)?.statistics ?? null;
    return {
      gateway: await this.gatewayOf(known, planned),
      sources: planned.sources.map((source) => sourceShown(source, statistics)),
      readers: planned.readers.map((reader) => {
        const { link, client } = reader.subject;
        return {
          linkId: link.id,
          link: link.name,
          client: client.name,
          signsInAs: signInNameOf(link.identity),
          mayWrite: mayWrite(reader.subject),
          says: whyReaderIsLeftOut(reader),
        };
      }),
      places: [...known.places],
      relays: known.relays.map((relay) => {
        const told = statistics?.relays.find(({ id: relayId }) => relayId === relay.id);
        const isTold = planned.configuration?.relays.some((each) => each.id === relay.id) ?? false;
        return {
          ...relay,
          written: told?.written ?? 0,
          says: isTold ? (told?.says ?? null) : 'One of its servers is not read.',
        };
      }),
      statistics,
      machines: await this.machines(),
    };
  }

  private machines = (): Promise<{ id: string; name: string; addresses: string[] }[]> =>
    this.db
      .select({ id: machines.id, name: machines.name, addresses: machines.addresses })
      .from(machines)
      .orderBy(asc(machines.name), asc(machines.id));

  private async gatewayOf(known: KnownGateway, planned: Planned): Promise<Gateway> {
    const [outpost] = await shownOutposts(this.db, [known.outpost]);
    if (!outpost) throw notFound('gateway', known.outpost.id);
    const statistics = toldBy(known)?.statistics ?? null;
    return {
      outpost,
      clientId: known.client.id,
      serverId: known.server.id,
      address: known.address,
      port: known.port,
      classic: known.classic && {
        clientId: known.classic.client.id,
        serverId: known.classic.server.id,
        mapperPort: known.classic.mapperPort,
        program: programOfGateway(known.outpost.id),
        clsid: known.classic.clsid,
      },
      ...standing(known, planned),
      sources: known.sources.length,
      sourcesThere: statistics?.sources.filter(({ state }) => state === 'there').length ?? 0,
      items: statistics?.items ?? 0,
      relays: known.relays.length,
    };
  }
}

/** What it told last, while it is connected. */
function toldBy({ outpost }: KnownGateway) {
  return isHere(outpost) && outpost.told?.kind === 'gateway' ? outpost.told : null;
}

function standing(known: KnownGateway, planned: Planned): Pick<Gateway, 'state' | 'says'> {
  const { outpost, client } = known;
  if (!planned.hasIdentity)
    return {
      state: 'unset',
      says: `${client.name} has no certificate yet. Give it one under Settings, Client certificates.`,
    };
  if (outpost.heardAt === null)
    return { state: 'unset', says: `Its process on ${known.machine.name} was never heard.` };
  const told = toldBy(known);
  if (!isHere(outpost)) return { state: 'away', says: `Its process on ${known.machine.name} is silent.` };
  if (told?.fault) return { state: 'differs', says: `It can’t do what it shall: ${told.fault}` };
  if (told?.revision !== planned.revision) return { state: 'told', says: 'It does not yet hold what has changed.' };
  return { state: 'runs', says: null };
}

type Statistics = NonNullable<ReturnType<typeof toldBy>>['statistics'];

function sourceShown(source: Planned['sources'][number], statistics: Statistics): GatewayView['sources'][number] {
  const { link, server } = source.subject;
  const says = whySourceIsLeftOut(source);
  const told = statistics?.sources.find(({ name }) => name === sourceName(link.id));
  const user = signInNameOf(link.identity);
  return {
    linkId: link.id,
    link: link.name,
    server: server.name,
    state: says !== null ? 'left-out' : !told || told.state === 'stopped' ? 'not-told' : told.state,
    says: says ?? told?.fault ?? null,
    endpoint:
      says === null && source.at
        ? `${source.at.address}:${source.at.port}, ${source.endpoint ? endpointName(source.endpoint) : 'classic OPC'}, ${user === '' ? 'anonymous' : `as “${user}”`}`
        : null,
    items: told?.items ?? 0,
    changes: told?.changes ?? 0,
    events: told?.events ?? 0,
    returns: told?.returns ?? 0,
  };
}
