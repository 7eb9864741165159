import { and, asc, desc, eq, gt, inArray, lt, or, sql } from 'drizzle-orm';
import type { TunnelSide } from '@loyal-hinge/core';
import type { TunnelLimits, TunnelStatistics } from '@loyal-hinge/contract/line';
import type { Queryable } from '../database/database.js';
import { outposts, tunnelSamples, tunnelledLinks, tunnels } from '../database/schema.js';
import { outpostsBy } from '../outposts/store.js';
import type { OutpostRow } from '../outposts/store.js';

/** What ends told is kept for so long. */
const keptDays = 7;

export interface KeptTunnel {
  readonly id: string;
  readonly name: string;
  readonly address: string;
  readonly port: number;
  readonly limits: TunnelLimits;
  readonly ends: Readonly<Record<TunnelSide, OutpostRow>>;
}
export type LedLink = typeof tunnelledLinks.$inferSelect;

export async function readTunnels(db: Queryable): Promise<readonly KeptTunnel[]> {
  const rows = await db.select().from(tunnels).orderBy(asc(tunnels.name), asc(tunnels.id));
  const ends = new Map(
    (
      await outpostsBy(
        db,
        rows.flatMap(({ listeningId, diallingId }) => [listeningId, diallingId]),
      )
    ).map((row) => [row.id, row]),
  );
  return rows.flatMap(({ listeningId, diallingId, ...row }) => {
    const [listens, dials] = [ends.get(listeningId), ends.get(diallingId)];
    return listens && dials ? [{ ...row, ends: { listens, dials } }] : [];
  });
}

export async function findTunnel(db: Queryable, id: string): Promise<KeptTunnel | null> {
  return (await readTunnels(db)).find((tunnel) => tunnel.id === id) ?? null;
}

/** Who is at the other end of an end’s tunnel; null: it is no end of one. */
export async function otherEndOf(db: Queryable, outpostId: string): Promise<string | null> {
  const [row] = await db
    .select({ listeningId: tunnels.listeningId, diallingId: tunnels.diallingId })
    .from(tunnels)
    .where(or(eq(tunnels.listeningId, outpostId), eq(tunnels.diallingId, outpostId)));
  return row ? (row.listeningId === outpostId ? row.diallingId : row.listeningId) : null;
}

export interface TunnelPut {
  readonly id: string;
  readonly name: string;
  readonly address: string;
  readonly port: number;
  readonly limits: TunnelLimits;
  readonly listeningMachineId: string;
  readonly diallingMachineId: string;
}

export const endIdOf = (tunnelId: string, side: TunnelSide): string => `${tunnelId}-${side}`;

/** Keeps a tunnel and its ends; an end that goes to another machine is another end, with no certificate yet. */
export async function putTunnel(
  tx: Queryable,
  { listeningMachineId, diallingMachineId, ...put }: TunnelPut,
): Promise<void> {
  const [listeningId, diallingId] = [endIdOf(put.id, 'listens'), endIdOf(put.id, 'dials')];
  for (const [id, machineId, what] of [
    [listeningId, listeningMachineId, 'listening'],
    [diallingId, diallingMachineId, 'dialling'],
  ] as const) {
    const moved = sql`${outposts.machineId} = ${machineId}`;
    const name = `${put.name}, ${what} end`;
    await tx
      .insert(outposts)
      .values({ id, kind: 'tunnel-end', name, machineId })
      .onConflictDoUpdate({
        target: outposts.id,
        set: {
          name,
          machineId,
          thumbprint: sql`case when ${moved} then ${outposts.thumbprint} end`,
          formerThumbprint: sql`case when ${moved} then ${outposts.formerThumbprint} end`,
          heardAt: sql`case when ${moved} then ${outposts.heardAt} end`,
          told: sql`case when ${moved} then ${outposts.told} end`,
        },
      });
  }
  const row = { ...put, listeningId, diallingId };
  await tx.insert(tunnels).values(row).onConflictDoUpdate({ target: tunnels.id, set: row });
}

export async function removeTunnel(tx: Queryable, { id, ends }: KeptTunnel): Promise<void> {
  await tx.delete(tunnels).where(eq(tunnels.id, id));
  await tx.delete(outposts).where(inArray(outposts.id, [ends.listens.id, ends.dials.id]));
}

export const readLedLinks = (db: Queryable): Promise<LedLink[]> =>
  db.select().from(tunnelledLinks).orderBy(asc(tunnelledLinks.linkId));

export async function leadLink(tx: Queryable, row: LedLink): Promise<void> {
  await tx.insert(tunnelledLinks).values(row).onConflictDoUpdate({ target: tunnelledLinks.linkId, set: row });
}

export async function leadStraight(tx: Queryable, tunnelId: string, linkId: string): Promise<boolean> {
  const gone = await tx
    .delete(tunnelledLinks)
    .where(and(eq(tunnelledLinks.linkId, linkId), eq(tunnelledLinks.tunnelId, tunnelId)))
    .returning({ linkId: tunnelledLinks.linkId });
  return gone.length > 0;
}

export async function addSample(db: Queryable, outpostId: string, statistics: TunnelStatistics): Promise<void> {
  await db.insert(tunnelSamples).values({ outpostId, statistics });
  await db
    .delete(tunnelSamples)
    .where(
      and(
        eq(tunnelSamples.outpostId, outpostId),
        lt(tunnelSamples.at, sql`now() - make_interval(days => ${keptDays})`),
      ),
    );
}

/** What an end told within some hours, oldest first; at most so many, the newest. */
export async function samplesOf(db: Queryable, outpostId: string, hours: number, most: number) {
  const found = await db
    .select({ at: tunnelSamples.at, statistics: tunnelSamples.statistics })
    .from(tunnelSamples)
    .where(
      and(eq(tunnelSamples.outpostId, outpostId), gt(tunnelSamples.at, sql`now() - make_interval(hours => ${hours})`)),
    )
    .orderBy(desc(tunnelSamples.at))
    .limit(most);
  return found.reverse();
}
