import { isPlantFault, linkInPlant, tunnelTargetOf, tunnelSides } from '@loyal-hinge/core';
import type { LinkInPlant, Machine, TunnelFact, TunnelledWay, TunnelSide } from '@loyal-hinge/core';
import { tunnelConfiguration } from '@loyal-hinge/contract/line';
import type { FromServer, TunnelConfiguration } from '@loyal-hinge/contract/line';
import { certificatesBy } from '../certificates/store.js';
import type { Queryable } from '../database/database.js';
import { revisionOf } from '../outposts/revision.js';
import { certifiedOf, isHere } from '../outposts/store.js';
import type { OutpostRow } from '../outposts/store.js';
import { readAround } from '../plant/part.js';
import { endConfiguration } from './configured.js';
import type { PlannedTunnel } from './configured.js';
import { readLedLinks, readTunnels } from './store.js';
import type { KeptTunnel, LedLink } from './store.js';
import { notFound } from '../http/problems.js';

/** A tunnel, the machines of its ends, and the links that go through it. */
export interface KnownTunnel {
  readonly kept: KeptTunnel;
  readonly machines: Readonly<Record<TunnelSide, Machine>>;
  readonly links: readonly KnownLedLink[];
}
export interface KnownLedLink {
  readonly led: LedLink;
  readonly subject: LinkInPlant;
  readonly way: TunnelledWay;
}

/** All tunnels of the plant. */
export async function knownTunnels(db: Queryable): Promise<readonly KnownTunnel[]> {
  const kept = await readTunnels(db);
  if (kept.length === 0) return [];
  const led = await readLedLinks(db);
  const part = await readAround(db, {
    linkIds: led.map(({ linkId }) => linkId),
    machineIds: kept.flatMap(({ ends }) => tunnelSides.map((side) => ends[side].machineId)),
  });
  return kept.flatMap((tunnel) => {
    const machineOf = (side: TunnelSide) => part.machines.find(({ id }) => id === tunnel.ends[side].machineId);
    const [listens, dials] = [machineOf('listens'), machineOf('dials')];
    if (!listens || !dials) return [];
    const machines = { listens, dials };
    const { id, name, address, port } = tunnel;
    const links = led
      .filter(({ tunnelId }) => tunnelId === id)
      .flatMap((row): KnownLedLink[] => {
        const subject = linkInPlant({ name: '', ...part }, row.linkId);
        const target = isPlantFault(subject) ? null : tunnelTargetOf(subject);
        if (isPlantFault(subject) || !target) return [];
        const entrance = { address: row.entranceAddress, port: row.entrancePort };
        const way = { tunnel: { id, name, address, port, machines }, side: row.side, entrance, target };
        return [{ led: row, subject, way }];
      });
    return [{ kept: tunnel, machines, links }];
  });
}

/** The ways of links through tunnels, by the links’ ids. */
export const tunnelledWays = (known: readonly KnownTunnel[]): ReadonlyMap<string, TunnelledWay> =>
  new Map(known.flatMap(({ links }) => links.map(({ led, way }) => [led.linkId, way] as const)));

/** How a link goes through one of the tunnels, and how that stands; null: it goes straight. */
export function tunnelOfLink(
  known: readonly KnownTunnel[],
  linkId: string,
): { readonly way: TunnelledWay; readonly fact: TunnelFact } | null {
  for (const { kept, machines, links } of known) {
    const link = links.find(({ led }) => led.linkId === linkId);
    if (!link) continue;
    const { way } = link;
    const ends = tunnelSides.map((side) => ({
      side,
      machine: machines[side].name,
      ...endSeen(kept.ends[side]),
    }));
    const { id: tunnelId, name } = kept;
    return { way, fact: { kind: 'tunnel', tunnelId, name, entrance: way.entrance, target: way.target, ends } };
  }
  return null;
}

/** How an end stands, by what it told last. */
export function endSeen(row: OutpostRow): Pick<TunnelFact['ends'][number], 'state' | 'heardAt' | 'fault'> {
  const told = row.told?.kind === 'tunnel' ? row.told : null;
  const heardAt = row.heardAt === null ? null : new Date(row.heardAt).toISOString();
  if (heardAt === null) return { state: 'unset', heardAt, fault: null };
  if (!isHere(row)) return { state: 'away', heardAt, fault: null };
  return { state: told?.statistics?.state ?? 'waiting', heardAt, fault: told?.fault ?? null };
}

/** What an end shall hold now. */
export async function wantedOfEnd(
  db: Queryable,
  { kept, links }: KnownTunnel,
  side: TunnelSide,
): Promise<{ readonly configuration: TunnelConfiguration | null; readonly revision: string }> {
  const thumbprints = tunnelSides.flatMap((each) => endThumbprints(kept.ends[each]));
  const certificates = await certificatesBy(db, thumbprints);
  const fingerprints = (each: TunnelSide): readonly string[] =>
    endThumbprints(kept.ends[each]).flatMap((thumbprint) => certificates.get(thumbprint)?.summary.sha256 ?? []);
  const planned: PlannedTunnel = {
    ...kept,
    fingerprints: { listens: fingerprints('listens'), dials: fingerprints('dials') },
    links: links.map(({ led: { linkId, side: own }, way: { entrance, target } }) => ({
      linkId,
      side: own,
      entrance,
      target,
    })),
  };
  const certified = await certifiedOf(db, kept.ends[side]);
  const made = endConfiguration(planned, side, typeof certified?.revokedPem === 'string');
  const configuration = made && tunnelConfiguration.parse(made);
  return { configuration, revision: revisionOf(configuration) };
}

const endThumbprints = ({ thumbprint, formerThumbprint }: OutpostRow): readonly string[] =>
  [thumbprint, formerThumbprint].flatMap((each) => each ?? []);

/** What an end has to be told now; nothing where it has no certificate. */
export async function toldToEnd(db: Queryable, outpost: OutpostRow): Promise<readonly FromServer[]> {
  const end = endIn(await knownTunnels(db), outpost.id);
  const certified = await certifiedOf(db, outpost);
  if (!end || !certified) return [];
  const { authorityPem, revokedPem } = certified;
  return [{ kind: 'hold-tunnel', ...(await wantedOfEnd(db, end.known, end.side)), authorityPem, revokedPem }];
}

/** Of which tunnel an outpost is an end; null: of none. */
export function endIn(
  all: readonly KnownTunnel[],
  outpostId: string,
): { readonly known: KnownTunnel; readonly side: TunnelSide } | null {
  for (const known of all)
    for (const side of tunnelSides) if (known.kept.ends[side].id === outpostId) return { known, side };
  return null;
}

/** One of the tunnels. @throws a problem where there is none of that id */
export function tunnelIn(all: readonly KnownTunnel[], id: string): KnownTunnel {
  const known = all.find(({ kept }) => kept.id === id);
  if (!known) throw notFound('tunnel', id);
  return known;
}
