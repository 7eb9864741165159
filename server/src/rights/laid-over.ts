import { fitsPattern } from '@loyal-hinge/core';
import type { SecurityMode } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import { nodesOf, patternOf } from './store.js';
import type { KeptNode, SnapshotRow } from './store.js';

/** Snapshots of one identity that are laid over each other: what is known of all nodes, and what was seen of some since. */

/** A node with the mode of the session that saw it. */
export type SeenInMode = KeptNode & { readonly mode: SecurityMode };

type Kept = Pick<SnapshotRow, 'part' | 'state'>;

/** It has seen all nodes there were. */
const isOfAll = ({ part, state }: Kept): boolean => part === null && state === 'whole';

/** Of somebody’s snapshots, the newest first, those that count, the newest last: the newest that saw all nodes, and whatever was seen since. */
export function laidOver<Row extends Kept>(newestFirst: readonly Row[]): readonly Row[] {
  const whole = newestFirst.findIndex(isOfAll);
  return (whole < 0 ? [...newestFirst] : newestFirst.slice(0, whole + 1)).reverse();
}

/** The nodes that snapshots tell of together, by their ids. @param snapshots the newest last */
export async function nodesLaid(
  db: Queryable,
  snapshots: readonly SnapshotRow[],
): Promise<ReadonlyMap<string, SeenInMode>> {
  const nodes = new Map<string, SeenInMode>();
  for (const snapshot of snapshots) lay(nodes, snapshot, await nodesOf(db, snapshot.id));
  return nodes;
}

/** Lays a snapshot over what was seen before: where it saw all of its part, what it did not see there is not there any more. */
export function lay(
  nodes: Map<string, SeenInMode>,
  { part, state, mode }: Kept & Pick<SnapshotRow, 'mode'>,
  seen: readonly KeptNode[],
): void {
  const pattern = patternOf(part);
  if (pattern && state === 'whole')
    for (const [id, { path }] of nodes) if (fitsPattern(pattern, path)) nodes.delete(id);
  for (const node of seen) nodes.set(node.nodeId, { ...node, mode: mode ?? 'None' });
}

/** Whether a node of this path would have been seen: where only some were looked at, nothing is known of the rest. */
export function covers({ snapshots }: { readonly snapshots: readonly Kept[] }, path: readonly string[]): boolean {
  return snapshots.some((snapshot) => {
    const pattern = patternOf(snapshot.part);
    return isOfAll(snapshot) || (snapshot.state === 'whole' && pattern !== null && fitsPattern(pattern, path));
  });
}
