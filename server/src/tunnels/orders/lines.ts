import { endpointUrlParts, openingOfTunnel, tightened, tunnelSides, wayBetween, worthOfRules } from '@loyal-hinge/core';
import type { LinkInPlant, PassageChange, TunnelInPlant, TunnelSide } from '@loyal-hinge/core';
import type { ProposedOrder } from '@loyal-hinge/contract';
import type { Queryable } from '../../database/database.js';
import { conflict } from '../../http/problems.js';
import { knownPassage } from '../../passage/known.js';
import type { KnownPassage } from '../../passage/known.js';
import { judgedNeed, neededAt, needsOf, readNeeds } from '../../passage/needs.js';
import type { Need } from '../../passage/needs.js';
import { changesFor, judgedOpenings } from '../../passage/ways.js';
import { endSeen, knownTunnels, tunnelIn } from '../known.js';
import type { KnownTunnel } from '../known.js';

/** What has to be done at both machines, at the firewalls between, and at the clients, so that a tunnel stands. */
export async function settingUpOf(db: Queryable, id: string): Promise<ProposedOrder> {
  const known = tunnelIn(await knownTunnels(db), id);
  const { kept, machines: standing, links } = known;
  const why = `${kept.name} joins ${standing.dials.name} and ${standing.listens.name} over one port.`;
  const lines: ProposedOrder['lines'] = [
    ...(await missingRules(db, known)).map((change) => ({ change, why, linkIds: links.map(({ led }) => led.linkId) })),
    ...tunnelSides
      .filter((side) => endSeen(kept.ends[side]).state !== 'joined')
      .map((side) => ({ change: setUp(known, side), why, linkIds: links.map(({ led }) => led.linkId) })),
    ...links.map(({ subject, led }) => ({
      change: leadThrough(known, subject, led),
      why: `${subject.link.name} goes through ${kept.name}.`,
      linkIds: [led.linkId],
    })),
  ];
  if (lines.length === 0)
    throw conflict(
      'Nothing is to be done: both ends are joined, and no link goes through it.',
      'Lead a link through it.',
    );
  return { title: `Set up ${kept.name}`, lines };
}

/**
 * What has to be done so that a tunnel goes: its links get openings of their own first, then they go straight, then its ends
 * stop, and rules that nobody else needs go last.
 */
export async function takingDownOf(db: Queryable, id: string): Promise<ProposedOrder> {
  const known = tunnelIn(await knownTunnels(db), id);
  const { kept, links } = known;
  const { plant, known: passage, needs } = await readNeeds(db);
  const led = new Set(links.map(({ led: { linkId } }) => linkId));
  const straight: KnownPassage = {
    ...passage,
    throughOf: (linkId) => (led.has(linkId) ? null : passage.throughOf(linkId)),
  };
  const why = `${kept.name} is taken down.`;
  const linkIds = [...led];
  const lines: ProposedOrder['lines'] = [
    ...links.flatMap(({ subject: { link }, subject }) =>
      judgedOpenings(straight, subject, [])
        .flatMap(({ opening }) => changesFor(straight, opening, link.name))
        .map((change) => ({ change, why: `${link.name} connects directly again.`, linkIds: [link.id] })),
    ),
    ...links.map(({ subject, led: one }) => ({
      change: { ...leadThrough(known, subject, one), kind: 'lead-straight' as const },
      why,
      linkIds: [one.linkId],
    })),
    ...tunnelSides
      .filter((side) => endSeen(kept.ends[side]).state !== 'unset')
      .map((side) => ({ change: { ...setUp(known, side), kind: 'take-down-tunnel-end' as const }, why, linkIds })),
    ...devicesOf(passage, known).flatMap((firewallId) =>
      neededNoMore(firewallId, passage, needs, needsOf(plant, straight)).map((change) => ({
        change,
        why,
        linkIds: [],
      })),
    ),
  ];
  if (lines.length === 0)
    throw conflict('Nothing is to be done: its ends were never set up, and no link goes through it.', 'Remove it.');
  return { title: `Take down ${kept.name}`, lines };
}

/** The firewalls with rules over which its ends meet. */
function devicesOf(passage: KnownPassage, { kept, machines }: KnownTunnel): readonly string[] {
  const { between } = openingOfTunnel({ ...kept, machines });
  const { hops } = wayBetween(passage.plan, between.from, between.to);
  return [...new Set(hops.map(({ device }) => device.id))];
}

/** The changes that take rules away which were needed, and are not any more. */
function neededNoMore(
  firewallId: string,
  { rulesOf }: KnownPassage,
  before: readonly Need[],
  after: readonly Need[],
): readonly PassageChange[] {
  const rules = rulesOf(firewallId);
  if (!rules) return [];
  const worth = (needs: readonly Need[]) => worthOfRules(rules, neededAt(firewallId, needs.map(judgedNeed)));
  const was = worth(before);
  return worth(after).flatMap((each, index) =>
    each.worth === 'unneeded' && was[index]?.worth !== 'unneeded' ? (tightened(rules, each, firewallId) ?? []) : [],
  );
}

async function missingRules(db: Queryable, { kept, machines }: KnownTunnel) {
  const passage = await knownPassage(db);
  const tunnel: TunnelInPlant = { id: kept.id, name: kept.name, address: kept.address, port: kept.port, machines };
  return changesFor(passage, openingOfTunnel(tunnel), kept.name);
}

const setUp = ({ kept }: KnownTunnel, side: TunnelSide) => ({
  kind: 'set-up-tunnel-end' as const,
  tunnelId: kept.id,
  tunnel: kept.name,
  machineId: kept.ends[side].machineId,
  outpostId: kept.ends[side].id,
  side,
  address: kept.address,
  port: kept.port,
});

const leadThrough = ({ kept }: KnownTunnel, subject: LinkInPlant, led: KnownTunnel['links'][number]['led']) => {
  const parts = endpointUrlParts(subject.link.endpointUrl);
  return {
    kind: 'lead-through-tunnel' as const,
    tunnelId: kept.id,
    tunnel: kept.name,
    machineId: subject.clientMachine.id,
    linkId: led.linkId,
    client: subject.client.name,
    host: parts?.host ?? '',
    port: parts?.port ?? 0,
    entranceAddress: led.entranceAddress,
    entrancePort: led.entrancePort,
  };
};
