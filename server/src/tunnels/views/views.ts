import { clientSideOf, linkInPlant, tunnelTargetOf, tunnelSides } from '@loyal-hinge/core';
import type {
  Tunnel,
  TunnelChoices,
  TunnelEnd,
  TunnelMachine,
  TunnelSample,
  TunnelsView,
  TunnelView,
} from '@loyal-hinge/contract';
import { asc, inArray } from 'drizzle-orm';
import type { Queryable } from '../../database/database.js';
import { assessments, machines } from '../../database/schema.js';
import { notFound } from '../../http/problems.js';
import { isHere, shownOutposts } from '../../outposts/store.js';
import { knownPassage } from '../../passage/known.js';
import { judgedOpenings, portsOfOpening } from '../../passage/ways.js';
import { readPlant } from '../../plant/store.js';
import { endSeen, knownTunnels, tunnelIn, wantedOfEnd } from '../known.js';
import type { KnownTunnel } from '../known.js';
import { samplesOf } from '../store.js';

const historyHours = 6;
/** So many points are drawn of what an end told; what lies between is left out. */
const mostPoints = 240;
const mostOther = 500;

export async function tunnelsViewOf(db: Queryable): Promise<Omit<TunnelsView, 'door'>> {
  const all = await knownTunnels(db);
  const states = await linkStates(db, all);
  return {
    tunnels: await Promise.all(all.map((known) => tunnelOf(db, known, states))),
    machines: await standingOf(db),
  };
}

/** What is looked at again and again: how a tunnel stands, and what its ends told. */
export async function tunnelViewOf(db: Queryable, id: string): Promise<Omit<TunnelView, 'door'>> {
  const known = tunnelIn(await knownTunnels(db), id);
  const history = await Promise.all(
    tunnelSides.map(async (side) => ({ side, samples: await samplesOfEnd(db, known.kept.ends[side].id) })),
  );
  return { tunnel: await tunnelOf(db, known, await linkStates(db, [known])), history };
}

/** What can be chosen for a tunnel: machines for its ends, and links that could go through it. */
export async function tunnelChoicesOf(db: Queryable, id: string): Promise<TunnelChoices> {
  const all = await knownTunnels(db);
  return { machines: await standingOf(db), otherLinks: await otherLinks(db, tunnelIn(all, id), all) };
}

const standingOf = (db: Queryable): Promise<TunnelMachine[]> =>
  db
    .select({ id: machines.id, name: machines.name, addresses: machines.addresses })
    .from(machines)
    .orderBy(asc(machines.name), asc(machines.id));

/** How the links stand that go through some tunnels. */
async function linkStates(db: Queryable, known: readonly KnownTunnel[]): Promise<ReadonlyMap<string, string>> {
  const ids = known.flatMap(({ links }) => links.map(({ led }) => led.linkId));
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({ linkId: assessments.linkId, state: assessments.state })
    .from(assessments)
    .where(inArray(assessments.linkId, ids));
  return new Map(rows.map(({ linkId, state }) => [linkId, state]));
}

async function tunnelOf(db: Queryable, known: KnownTunnel, states: ReadonlyMap<string, string>): Promise<Tunnel> {
  const { kept, links } = known;
  const shown = await shownOutposts(db, [kept.ends.listens, kept.ends.dials]);
  const ends = await Promise.all(
    tunnelSides.map(async (side, index): Promise<TunnelEnd> => {
      const row = kept.ends[side];
      const outpost = shown[index];
      if (!outpost) throw notFound('outpost', row.id);
      const told = row.told?.kind === 'tunnel' ? row.told : null;
      const { revision } = await wantedOfEnd(db, known, side);
      return {
        side,
        outpost,
        holds:
          told === null
            ? 'not-told'
            : told.revision === revision
              ? 'it'
              : told.revision === null
                ? 'nothing'
                : 'another',
        fault: told?.fault ?? null,
        statistics: isHere(row) ? (told?.statistics ?? null) : null,
      };
    }),
  );
  const { id, name, address, port, limits } = kept;
  return {
    id,
    name,
    address,
    port,
    limits,
    ends,
    links: links.map(({ led, subject, way }) => ({
      linkId: led.linkId,
      link: subject.link.name,
      side: led.side,
      entranceAddress: led.entranceAddress,
      entrancePort: led.entrancePort,
      targetAddress: way.target.address,
      targetPort: way.target.port,
      state: states.get(led.linkId) ?? null,
    })),
    ...standing(known),
  };
}

/** Whether a tunnel is up, by what both ends say. */
function standing({ kept, machines }: KnownTunnel): Pick<Tunnel, 'state' | 'says'> {
  const seen = tunnelSides.map((side) => ({ machine: machines[side].name, ...endSeen(kept.ends[side]) }));
  const unset = seen.find(({ state }) => state === 'unset');
  if (unset) return { state: 'unset', says: `The end on ${unset.machine} was never heard.` };
  const faulty = seen.find(({ fault }) => fault !== null);
  if (faulty)
    return { state: 'down', says: `The end on ${faulty.machine} can’t do what it shall: ${faulty.fault ?? ''}` };
  const away = seen.find(({ state }) => state === 'away');
  if (away) return { state: 'down', says: `The end on ${away.machine} is silent.` };
  const apart = seen.find(({ state }) => state !== 'joined');
  return apart
    ? { state: 'down', says: `The end on ${apart.machine} has no connection to the other one.` }
    : { state: 'up', says: null };
}

async function samplesOfEnd(db: Queryable, outpostId: string): Promise<TunnelSample[]> {
  const found = await samplesOf(db, outpostId, historyHours, historyHours * 60 * 5);
  const every = Math.max(1, Math.ceil(found.length / mostPoints));
  const taken = found.filter((_, index) => (found.length - 1 - index) % every === 0);
  return taken.map(({ at, statistics }, index) => {
    const before = taken[index - 1];
    const seconds = before ? (Date.parse(at) - Date.parse(before.at)) / 1000 : 0;
    /* A process that was started anew counts from nothing. */
    const perSecond = (which: 'sent' | 'received'): number =>
      before && seconds > 0 ? Math.max(0, statistics.bytes[which] - before.statistics.bytes[which]) / seconds : 0;
    return {
      at: new Date(at).toISOString(),
      state: statistics.state,
      roundTripMs: statistics.roundTripMs,
      streams: statistics.streams.open,
      sentPerSecond: perSecond('sent'),
      receivedPerSecond: perSecond('received'),
    };
  });
}

/** Links that could go through a tunnel, each with a place for its entrance that is free. */
async function otherLinks(
  db: Queryable,
  known: KnownTunnel,
  all: readonly KnownTunnel[],
): Promise<TunnelChoices['otherLinks']> {
  const [plant, passage] = await Promise.all([readPlant(db), knownPassage(db, all)]);
  const led = new Set(all.flatMap(({ links }) => links.map(({ led: { linkId } }) => linkId)));
  const taken = new Set(
    all.flatMap(({ links, machines }) =>
      links.map(({ led: { side, entranceAddress, entrancePort } }) =>
        placeKey(machines[side].id, entranceAddress, entrancePort),
      ),
    ),
  );
  return plant.links
    .flatMap((link) => {
      const subject = led.has(link.id) ? null : linkInPlant(plant, link.id);
      if (!subject || !('link' in subject)) return [];
      const found = clientSideOf(subject, { name: known.kept.name, machines: known.machines });
      const target = tunnelTargetOf(subject);
      return found.ok && target ? [{ subject, side: found.side, target }] : [];
    })
    .slice(0, mostOther)
    .map(({ subject, side, target }) => {
      const machine = known.machines[side];
      const entranceAddress = machine.addresses[0] ?? '127.0.0.1';
      let entrancePort = target.port;
      while (taken.has(placeKey(machine.id, entranceAddress, entrancePort)) && entrancePort < 65_535) entrancePort += 1;
      return {
        linkId: subject.link.id,
        link: subject.link.name,
        entranceAddress,
        entrancePort,
        openPorts: judgedOpenings(passage, subject, [], passage.rulesOf, null)
          .filter(({ hops }) => hops.length > 0)
          .reduce((sum, { opening }) => sum + portsOfOpening(opening), 0),
      };
    });
}

const placeKey = (machineId: string, address: string, port: number): string => `${machineId} ${address} ${port}`;
