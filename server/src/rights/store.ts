import { and, asc, desc, eq, gt, inArray, or, sql } from 'drizzle-orm';
import { isPatternFault, itemPattern } from '@loyal-hinge/core';
import type { ItemPattern, NodeAttributes, SecurityMode } from '@loyal-hinge/core';
import type { RightsSnapshot, SnapshotState } from '@loyal-hinge/contract';
import { copyIn } from '../database/copy-in.js';
import type { Database, Queryable } from '../database/database.js';
import { rightsNodes, rightsSnapshots } from '../database/schema.js';
import { ofNoProcess } from '../processes/of-no-process.js';
import type { SeenNode } from './walk-space.js';

export type SnapshotRow = typeof rightsSnapshots.$inferSelect;

/** A node of a snapshot, as it is kept. */
export interface KeptNode {
  readonly nodeId: string;
  readonly path: readonly string[];
  readonly attributes: NodeAttributes;
}

export async function addSnapshots(
  tx: Queryable,
  rows: readonly Pick<SnapshotRow, 'id' | 'serverId' | 'userName' | 'linkId' | 'part' | 'askedBy' | 'processId'>[],
): Promise<void> {
  await tx.insert(rightsSnapshots).values([...rows]);
}

export const snapshotsOf = (db: Queryable, serverId: string): Promise<SnapshotRow[]> =>
  db
    .select()
    .from(rightsSnapshots)
    .where(eq(rightsSnapshots.serverId, serverId))
    .orderBy(desc(rightsSnapshots.askedAt), asc(rightsSnapshots.userName))
    .limit(200);

/** Snapshots that tell something, the newest first: whole ones, and what was seen of others. */
export const usableSnapshotsOf = (db: Queryable, serverId: string): Promise<SnapshotRow[]> =>
  db
    .select()
    .from(rightsSnapshots)
    .where(
      and(
        eq(rightsSnapshots.serverId, serverId),
        or(eq(rightsSnapshots.state, 'whole'), and(eq(rightsSnapshots.state, 'part'), gt(rightsSnapshots.nodes, 0))),
      ),
    )
    .orderBy(desc(rightsSnapshots.askedAt));

/** What of a server’s nodes a snapshot is of; null: of all. */
export function patternOf(part: string | null): ItemPattern | null {
  const read = part === null ? null : itemPattern(part);
  return read === null || isPatternFault(read) ? null : read;
}

export async function findSnapshot(db: Queryable, id: string): Promise<SnapshotRow | null> {
  const [row] = await db.select().from(rightsSnapshots).where(eq(rightsSnapshots.id, id));
  return row ?? null;
}

/** Changes a snapshot that is in one of some states; false where it is in none of them. */
export async function moveSnapshot(
  db: Queryable,
  id: string,
  from: readonly SnapshotState[],
  to: Partial<Pick<SnapshotRow, 'state' | 'says' | 'endedAt' | 'nodes' | 'mode'>>,
): Promise<boolean> {
  const moved = await db
    .update(rightsSnapshots)
    .set(to)
    .where(and(eq(rightsSnapshots.id, id), inArray(rightsSnapshots.state, [...from])))
    .returning({ id: rightsSnapshots.id });
  return moved.length > 0;
}

export async function removeSnapshot(tx: Queryable, id: string): Promise<boolean> {
  const gone = await tx.delete(rightsSnapshots).where(eq(rightsSnapshots.id, id)).returning({ id: rightsSnapshots.id });
  return gone.length > 0;
}

/** When the newest snapshot of each server was asked for. */
export async function newestByServer(db: Queryable): Promise<ReadonlyMap<string, string>> {
  const rows = await db
    .select({ serverId: rightsSnapshots.serverId, at: sql<string>`max(${rightsSnapshots.askedAt})` })
    .from(rightsSnapshots)
    .groupBy(rightsSnapshots.serverId);
  return new Map(rows.map(({ serverId, at }) => [serverId, new Date(at).toISOString()]));
}

const columns = [
  'snapshot_id',
  'node_id',
  'path',
  'node_class',
  'access_level',
  'user_access_level',
  'user_permissions',
  'access_restrictions',
  'user_write_mask',
  'user_executable',
];

/** Writes nodes down, and how many there are by now. */
export async function addNodes(
  db: Database,
  snapshotId: string,
  seen: readonly SeenNode[],
  { nodes, mode }: { readonly nodes: number; readonly mode: SecurityMode },
): Promise<void> {
  await db.transaction(async (tx) => {
    await copyIn(
      tx,
      'rights_nodes',
      columns,
      seen.map(({ nodeId, path, attributes: told }) => [
        snapshotId,
        clean(nodeId),
        path.map(clean),
        told.nodeClass,
        told.accessLevel,
        told.userAccessLevel,
        told.userPermissions,
        told.accessRestrictions,
        told.userWriteMask,
        told.userExecutable === null ? null : String(told.userExecutable),
      ]),
    );
    await tx.update(rightsSnapshots).set({ nodes, mode }).where(eq(rightsSnapshots.id, snapshotId));
  });
}

const loneSurrogates = /[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g;

/** PostgreSQL keeps no NUL, and names of a server may hold anything. */
const clean = (text: string): string => text.replaceAll('\0', '�').replace(loneSurrogates, '�').slice(0, 2000);

export async function nodesOf(db: Queryable, snapshotId: string): Promise<readonly KeptNode[]> {
  const rows = await db.select().from(rightsNodes).where(eq(rightsNodes.snapshotId, snapshotId));
  return rows.map(({ nodeId, path, snapshotId: _, ...attributes }) => ({ nodeId, path, attributes }));
}

/** What a process that is gone was taking ends where it was. */
export async function endOrphaned(db: Queryable): Promise<void> {
  await db
    .update(rightsSnapshots)
    .set({
      state: 'part',
      says: 'The server was stopped in the middle. Take the snapshot again.',
      endedAt: new Date().toISOString(),
    })
    .where(and(inArray(rightsSnapshots.state, ['waiting', 'running']), ofNoProcess(rightsSnapshots.processId)));
}

export const snapshotView = (row: SnapshotRow): RightsSnapshot => ({
  id: row.id,
  userName: row.userName === '' ? null : row.userName,
  part: row.part,
  state: row.state,
  nodes: row.nodes,
  says: row.says,
  askedBy: row.askedBy,
  askedAt: new Date(row.askedAt).toISOString(),
  endedAt: row.endedAt === null ? null : new Date(row.endedAt).toISOString(),
});
