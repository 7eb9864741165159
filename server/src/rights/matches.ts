import { fitsPattern, patternInPath } from '@loyal-hinge/core';
import type { KnownMatches, MatchesWish } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { laidOver, nodesLaid } from './laid-over.js';
import { usableSnapshotsOf } from './store.js';
import type { KeptNode } from './store.js';

const mostExamples = 3;

/**
 * What paths and patterns stand for among the variables of a server that were seen as somebody; where nobody looked as
 * them, as whoever looked last.
 */
export async function rightsMatchesOf(db: Database, serverId: string, wish: MatchesWish): Promise<KnownMatches> {
  const usable = await usableSnapshotsOf(db, serverId);
  const as = usable.some(({ userName }) => userName === wish.userName) ? wish.userName : (usable[0]?.userName ?? '');
  const snapshots = laidOver(usable.filter(({ userName }) => userName === as));
  const nodes = [...(await nodesLaid(db, snapshots)).values()];
  const [oldest] = snapshots;
  return {
    seenAt: oldest ? new Date(oldest.endedAt ?? oldest.askedAt).toISOString() : null,
    as,
    paths: wish.paths.map((path) => matchOf(path, nodes)),
  };
}

/** A pattern stands for all variables that fit it, a path for the node that has it, a node id for itself. */
export function matchOf(path: string, nodes: readonly KeptNode[]): KnownMatches['paths'][number] {
  const pattern = patternInPath(path);
  const found = nodes.filter((node) =>
    pattern
      ? node.attributes.nodeClass === 'Variable' && fitsPattern(pattern, node.path)
      : node.nodeId === path || node.path.join('/') === path,
  );
  return {
    path,
    isPattern: pattern !== null,
    count: found.length,
    examples: found
      .map((node) => node.path.join('/'))
      .sort()
      .slice(0, mostExamples),
  };
}
