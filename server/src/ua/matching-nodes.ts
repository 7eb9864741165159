import { fitsPattern, mayFitBelow } from '@loyal-hinge/core';
import type { ItemPattern } from '@loyal-hinge/core';
import { mostWatched } from '@loyal-hinge/contract';
import { objectsFolder } from './session.js';
import type { BrowsedNode, UaSession } from './session.js';

const mostMatches = mostWatched;
/** Whoever looks for more names more of the path. */
const mostSeen = 20_000;
const atOnce = 50;
const mostDepth = 60;

/** Variables whose paths fit a pattern. */
export interface MatchingNodes {
  readonly nodes: readonly (BrowsedNode & { readonly path: string })[];
  /** Nodes that were looked at. */
  readonly seen: number;
  /** All that can fit was looked at. */
  readonly isWhole: boolean;
}

interface OpenNode {
  readonly nodeId: string;
  readonly path: readonly string[];
}

/** What lies below what, at a server of any kind. */
export interface Branches {
  readonly top: string;
  /** So many nodes are asked for their children at once. */
  readonly together: number;
  /** In the order of the nodes; one that can’t be browsed has the code instead. */
  childrenOf(nodeIds: readonly string[]): Promise<readonly (readonly BrowsedNode[] | { readonly code: string })[]>;
}

/** Looks for variables whose paths below Objects fit a pattern. */
export async function matchingNodes(
  session: UaSession,
  pattern: ItemPattern,
  signal: AbortSignal,
): Promise<MatchingNodes> {
  const limit = (await session.operationLimits()).nodesPerBrowse;
  const together = limit > 0 ? Math.min(limit, atOnce) : atOnce;
  const childrenOf: Branches['childrenOf'] = (nodeIds) => session.browseTogether(nodeIds);
  return matchingIn({ top: objectsFolder, together, childrenOf }, pattern, signal);
}

/** Looks for variables whose paths fit a pattern, level by level, only where something can fit. */
export async function matchingIn(
  { top, together, childrenOf }: Branches,
  pattern: ItemPattern,
  signal: AbortSignal,
): Promise<MatchingNodes> {
  const known = new Set([top]);
  const nodes: (BrowsedNode & { readonly path: string })[] = [];
  let open: OpenNode[] = [{ nodeId: top, path: [] }];
  while (open.length > 0 && nodes.length < mostMatches && known.size < mostSeen) {
    signal.throwIfAborted();
    const parents = open.slice(0, together);
    open = open.slice(together);
    const levels = await childrenOf(parents.map(({ nodeId }) => nodeId));
    levels.forEach((children, index) => {
      if ('code' in children) return;
      for (const child of children) {
        if (known.has(child.nodeId)) continue;
        known.add(child.nodeId);
        const path = [...(parents[index]?.path ?? []), child.browseName];
        if (child.nodeClass === 'Variable' && fitsPattern(pattern, path) && nodes.length < mostMatches)
          nodes.push({ ...child, path: path.join('/') });
        if (path.length < mostDepth && mayFitBelow(pattern, path)) open.push({ nodeId: child.nodeId, path });
      }
    });
  }
  return { nodes, seen: known.size - 1, isWhole: open.length === 0 && nodes.length < mostMatches };
}
