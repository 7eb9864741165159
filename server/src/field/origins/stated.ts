import { and, asc, eq, inArray, sql } from 'drizzle-orm';
import type { ItemOrigin } from '@loyal-hinge/core/field';
import type { OriginWish } from '@loyal-hinge/contract';
import { appendAudit } from '../../audit/trail.js';
import type { Queryable } from '../../database/database.js';
import { itemOrigins, machines } from '../../database/schema.js';

/** So many origins of one server are looked at. */
export const mostOrigins = 5000;

/** Where the value of an item comes from, as a person stated it. */
export interface StatedOrigin {
  readonly path: string;
  readonly origin: ItemOrigin;
  /** The device’s name; null: the plant has no such machine. */
  readonly device: string | null;
}

/** Where the values of a server’s items come from. @param paths of some items alone */
export const statedOrigins = (
  db: Queryable,
  serverId: string,
  paths?: readonly string[],
): Promise<readonly StatedOrigin[]> =>
  db
    .select({ path: itemOrigins.path, origin: itemOrigins.origin, device: machines.name })
    .from(itemOrigins)
    .leftJoin(machines, eq(machines.id, itemOrigins.deviceId))
    .where(and(eq(itemOrigins.serverId, serverId), paths && inArray(itemOrigins.path, [...paths])))
    .orderBy(asc(itemOrigins.path))
    .limit(mostOrigins);

/** A device that a server has to ask, on some ports. */
export interface AskedDevice {
  readonly serverId: string;
  readonly deviceId: string;
  /** In order. */
  readonly ports: readonly number[];
}

/** Which devices servers ask, by where their items come from. */
export const askedDevices = (db: Queryable): Promise<readonly AskedDevice[]> => {
  const port = sql`(${itemOrigins.origin} ->> 'port')::int`;
  return db
    .select({
      serverId: itemOrigins.serverId,
      deviceId: itemOrigins.deviceId,
      ports: sql<number[]>`array_agg(distinct ${port} order by ${port})`,
    })
    .from(itemOrigins)
    .groupBy(itemOrigins.serverId, itemOrigins.deviceId)
    .orderBy(asc(itemOrigins.serverId), asc(itemOrigins.deviceId));
};

/** Keeps origins of a server’s items, those that were stated before among them. */
export async function keepOrigins(
  tx: Queryable,
  serverId: string,
  wishes: readonly OriginWish[],
  actor: string,
): Promise<void> {
  const changedAt = new Date().toISOString();
  for (let from = 0; from < wishes.length; from += mostRowsAtOnce)
    await tx
      .insert(itemOrigins)
      .values(
        wishes.slice(from, from + mostRowsAtOnce).map(({ path, origin }) => ({
          serverId,
          path,
          deviceId: origin.deviceId,
          origin,
          changedBy: actor,
          changedAt,
        })),
      )
      .onConflictDoUpdate({
        target: [itemOrigins.serverId, itemOrigins.path],
        set: {
          deviceId: sql`excluded.device_id`,
          origin: sql`excluded.origin`,
          changedBy: sql`excluded.changed_by`,
          changedAt: sql`excluded.changed_at`,
        },
      });
  await appendAudit(tx, {
    actor,
    action: 'origins stated',
    subject: serverId,
    details: { origins: wishes.slice(0, mostInTrail), count: wishes.length },
  });
}

/** One statement takes 65,535 parameters at most (PostgreSQL’s protocol counts them with two octets). */
const mostRowsAtOnce = 1000;
/** Of a large import so many stand in the trail. */
const mostInTrail = 200;
