import { and, asc, eq, inArray } from 'drizzle-orm';
import { overlappingOrigins, originsOfPattern } from '@loyal-hinge/core/field';
import type { ItemOrigin, OriginPattern } from '@loyal-hinge/core/field';
import type { OriginRow, OriginsCsv, OriginsTaken, OriginsView, OriginWish, QueryOf } from '@loyal-hinge/contract';
import { appendAudit } from '../../audit/trail.js';
import type { Database } from '../../database/database.js';
import { itemOrigins, machines } from '../../database/schema.js';
import { invalid, notFound } from '../../http/problems.js';
import { findApplication } from '../../plant/part.js';
import { originsFromCsv, originsToCsv } from './origins-csv.js';
import { keepOrigins, mostOrigins } from './stated.js';

/** Origins of items: stated by people, kept with the plant. */
export class Origins {
  constructor(private readonly db: Database) {}

  async view({ server, device }: QueryOf<'origins'>): Promise<OriginsView> {
    const rows = await this.db
      .select({ row: itemOrigins, device: machines.name })
      .from(itemOrigins)
      .leftJoin(machines, eq(machines.id, itemOrigins.deviceId))
      .where(
        and(
          server === undefined ? undefined : eq(itemOrigins.serverId, server),
          device === undefined ? undefined : eq(itemOrigins.deviceId, device),
        ),
      )
      .orderBy(asc(itemOrigins.serverId), asc(itemOrigins.path))
      .limit(mostOrigins + 1);
    const shown = rows.slice(0, mostOrigins);
    const shared = await this.sharedIn([...new Set(shown.map(({ row }) => row.deviceId))]);
    return {
      origins: shown.map(({ row, device: name }) => rowOf(row, name, shared.get(keyOf(row)) ?? null)),
      isMore: rows.length > mostOrigins,
    };
  }

  async asCsv(serverId: string): Promise<{ csv: string }> {
    await this.server(serverId);
    const rows = await this.db
      .select()
      .from(itemOrigins)
      .where(eq(itemOrigins.serverId, serverId))
      .orderBy(asc(itemOrigins.path));
    return { csv: originsToCsv(rows) };
  }

  async put(serverId: string, wish: OriginWish, actor: string): Promise<OriginRow> {
    await this.server(serverId);
    const device = (await this.devices([wish.origin.deviceId])).get(wish.origin.deviceId);
    if (device === undefined)
      throw invalid('The origin can’t be kept.', [{ place: 'origin.deviceId', says: absent(wish.origin.deviceId) }]);
    await this.db.transaction((tx) => keepOrigins(tx, serverId, [wish], actor));
    const shared = await this.sharedIn([wish.origin.deviceId]);
    return rowOf(
      { serverId, ...wish, deviceId: wish.origin.deviceId, changedBy: actor, changedAt: new Date().toISOString() },
      device,
      shared.get(keyOf({ serverId, path: wish.path })) ?? null,
    );
  }

  async putPattern(serverId: string, pattern: OriginPattern, actor: string): Promise<{ kept: number }> {
    await this.server(serverId);
    const all = originsOfPattern(pattern);
    if (typeof all === 'string') throw invalid('The pattern can’t be used.', [{ place: 'path', says: all }]);
    if (!(await this.devices([pattern.origin.deviceId])).has(pattern.origin.deviceId))
      throw invalid('The origins can’t be kept.', [
        { place: 'origin.deviceId', says: absent(pattern.origin.deviceId) },
      ]);
    await this.db.transaction((tx) => keepOrigins(tx, serverId, all, actor));
    return { kept: all.length };
  }

  /** Nothing is kept where a line is wrong, unless such lines are to be left out. */
  async take(serverId: string, { csv, leaveOutWrong }: OriginsCsv, actor: string): Promise<OriginsTaken> {
    await this.server(serverId);
    const read = originsFromCsv(csv);
    const known = await this.devices(read.origins.map(({ origin }) => origin.deviceId));
    const strangers = read.origins
      .filter(({ origin }) => !known.has(origin.deviceId))
      .map(({ path, origin }) => ({ line: read.lineOf.get(path) ?? 0, says: `device: ${absent(origin.deviceId)}` }));
    const faults = [...read.faults, ...strangers].sort((left, right) => left.line - right.line);
    const kept =
      faults.length > 0 && !leaveOutWrong ? [] : read.origins.filter(({ origin }) => known.has(origin.deviceId));
    if (kept.length > 0) await this.db.transaction((tx) => keepOrigins(tx, serverId, kept, actor));
    return { kept: kept.length, faults };
  }

  async remove(serverId: string, paths: readonly string[], actor: string): Promise<void> {
    await this.server(serverId);
    await this.db.transaction(async (tx) => {
      const gone = await tx
        .delete(itemOrigins)
        .where(and(eq(itemOrigins.serverId, serverId), inArray(itemOrigins.path, [...paths])))
        .returning({ path: itemOrigins.path });
      if (gone.length > 0)
        await appendAudit(tx, {
          actor,
          action: 'origins removed',
          subject: serverId,
          details: { paths: gone.map(({ path }) => path) },
        });
    });
  }

  private async server(serverId: string): Promise<void> {
    const found = await findApplication(this.db, serverId);
    if (found?.kind !== 'server') throw notFound('server', serverId);
  }

  private async devices(ids: readonly string[]): Promise<ReadonlyMap<string, string>> {
    if (ids.length === 0) return new Map();
    const rows = await this.db
      .select({ id: machines.id, name: machines.name })
      .from(machines)
      .where(inArray(machines.id, [...new Set(ids)]));
    return new Map(rows.map(({ id, name }) => [id, name]));
  }

  /** Items that share a register with another by mistake, at some devices. */
  private async sharedIn(deviceIds: readonly string[]): Promise<ReadonlyMap<string, string>> {
    if (deviceIds.length === 0) return new Map();
    const rows = await this.db
      .select()
      .from(itemOrigins)
      .where(inArray(itemOrigins.deviceId, [...deviceIds]));
    const told = rows.map((row) => ({ path: keyOf(row), origin: row.origin }));
    const pairs = overlappingOrigins(told);
    const nameOf = (key: string): string => key.slice(key.indexOf('\n') + 1);
    return new Map(
      pairs.flatMap(({ path, with: other }) => [[path, nameOf(other)] as const, [other, nameOf(path)] as const]),
    );
  }
}

const absent = (id: string): string => `There is no machine “${id}” in the plant.`;
const keyOf = ({ serverId, path }: { readonly serverId: string; readonly path: string }): string =>
  `${serverId}\n${path}`;

const rowOf = (
  row: {
    readonly serverId: string;
    readonly path: string;
    readonly origin: ItemOrigin;
    readonly changedBy: string;
    readonly changedAt: string;
    readonly deviceId: string;
  },
  device: string | null,
  sharesWith: string | null,
): OriginRow => ({
  serverId: row.serverId,
  path: row.path,
  origin: { ...row.origin, form: { ...row.origin.form } },
  device,
  sharesWith,
  changedBy: row.changedBy,
  changedAt: new Date(row.changedAt).toISOString(),
});
