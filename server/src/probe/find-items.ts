import { nearest } from '@loyal-hinge/core';
import type { FactBody } from '@loyal-hinge/core';
import { failureOf } from '../ua/failure.js';
import { objectsFolder } from '../ua/session.js';
import type { BrowsedNode, UaSession } from '../ua/session.js';

type FoundItem = Extract<FactBody, { kind: 'item-found' }>;

/** Finds items by their browse paths below Objects, level by level; each level is browsed once for all of them. */
export class ItemFinder {
  private readonly levels = new Map<string, Promise<readonly BrowsedNode[]>>();

  constructor(private readonly session: UaSession) {}

  async find(path: string): Promise<FoundItem> {
    const begun = performance.now();
    const outcome = await this.follow(path).catch((error: unknown) => ({
      outcome: 'missing' as const,
      code: failureOf(error).code,
      nearest: null,
      seen: 0,
    }));
    return { kind: 'item-found', path, ms: Math.round(performance.now() - begun), ...outcome };
  }

  private async follow(
    path: string,
  ): Promise<
    { outcome: 'found'; nodeId: string } | { outcome: 'missing'; code: string; nearest: string | null; seen: number }
  > {
    if (/^(ns=\d+;)?[isgb]=/.test(path)) {
      const [read] = await this.session.read([path]);
      return read && !/BadNodeId/.test(read.code)
        ? { outcome: 'found', nodeId: path }
        : { outcome: 'missing', code: read?.code ?? 'BadNodeIdUnknown', nearest: null, seen: 0 };
    }
    let nodeId = objectsFolder;
    const walked: string[] = [];
    for (const part of path.split('/')) {
      const children = await this.childrenOf(nodeId);
      const next = children.find((child) => child.browseName === part || child.displayName === part);
      if (!next) {
        const near = nearest(
          part,
          children.map((child) => child.browseName),
        );
        return {
          outcome: 'missing',
          code: 'BadNoMatch',
          nearest: near ? [...walked, near].join('/') : null,
          seen: children.length,
        };
      }
      walked.push(part);
      nodeId = next.nodeId;
    }
    return { outcome: 'found', nodeId };
  }

  private childrenOf(nodeId: string): Promise<readonly BrowsedNode[]> {
    const known = this.levels.get(nodeId) ?? this.session.browse(nodeId);
    this.levels.set(nodeId, known);
    return known;
  }
}
