import { fitsPattern, mayFitBelow } from '@loyal-hinge/core';
import type { ItemPattern, NodeAttributes } from '@loyal-hinge/core';
import { readsPerNode, objectsFolder } from '../ua/session.js';
import type { BrowsedNode, UaSession } from '../ua/session.js';

/** Where a server does not say how much it takes at once. */
const usualAtOnce = { browsed: 50, read: 500 };
/** Whatever a server says that it takes. */
const mostAtOnce = { browsed: 200, read: 2_000 };
/** No address space is larger that can be looked at here; a server that makes up nodes without end is stopped by it. */
export const mostNodes = 500_000;
const mostDepth = 60;
/** What a server tells of itself (Server, i=2253) is no part of the plant; the library writes the namespace out. */
const passedOver = [objectsFolder, 'ns=0;i=85', 'ns=0;i=2253'];
/** A breath between requests: others use the server, too. */
const breathMs = 2;

export interface SeenNode {
  readonly nodeId: string;
  readonly path: readonly string[];
  readonly attributes: NodeAttributes;
}

interface OpenNode {
  readonly nodeId: string;
  readonly path: readonly string[];
}

/**
 * A walk through a server’s nodes below Objects, without the Server object: level by level, each node once, by the first
 * path that leads to it. It can go on with another session where one has ended in the middle.
 */
export class SpaceWalk {
  private readonly known = new Set(passedOver);
  /** Nodes whose children are not known yet. */
  private open: OpenNode[] = [{ nodeId: objectsFolder, path: [] }];
  /** Nodes whose attributes are not read yet, with the classes that they were browsed with. */
  private unread: (OpenNode & Pick<BrowsedNode, 'nodeClass'>)[] = [];
  /** Nodes that could not be browsed, or were gone when they were to be read, and why. */
  readonly refused: { readonly path: readonly string[]; readonly code: string }[] = [];
  nodes = 0;

  /** @param part only what fits it is looked at; null: all nodes */
  constructor(private readonly part: ItemPattern | null = null) {}

  /** True when every node was seen. */
  get isWhole(): boolean {
    return this.open.length === 0 && this.unread.length === 0;
  }

  get isTooLarge(): boolean {
    return this.known.size > mostNodes;
  }

  /**
   * Goes on until all is seen.
   * @param hear takes nodes as they are seen; the walk waits for it, so that nothing piles up
   */
  async goOn(
    session: UaSession,
    hear: (seen: readonly SeenNode[]) => Promise<void>,
    signal: AbortSignal,
  ): Promise<void> {
    const limits = await session.operationLimits();
    const browsed = within(limits.nodesPerBrowse, usualAtOnce.browsed, mostAtOnce.browsed);
    const read = Math.max(1, Math.floor(within(limits.nodesPerRead, usualAtOnce.read, mostAtOnce.read) / readsPerNode));
    while (!this.isWhole && !this.isTooLarge) {
      signal.throwIfAborted();
      if (this.unread.length > 0) await this.readSome(session, read, hear);
      else await this.browseSome(session, browsed);
      await new Promise((resolve) => setTimeout(resolve, breathMs));
    }
  }

  private async readSome(
    session: UaSession,
    most: number,
    hear: (seen: readonly SeenNode[]) => Promise<void>,
  ): Promise<void> {
    const some = this.unread.slice(0, most);
    const attributes = await session.attributesOf(some);
    const seen = some.flatMap(({ nodeId, path }, at) => {
      const told = attributes[at];
      return told ? [{ nodeId, path, attributes: told }] : [];
    });
    await hear(seen);
    some.forEach(({ path }, at) => {
      if (attributes[at] === null) this.refused.push({ path, code: 'BadNodeIdUnknown' });
    });
    // Only now: where the session ends in between, they are read again.
    this.unread = this.unread.slice(some.length);
    this.nodes += seen.length;
  }

  private async browseSome(session: UaSession, most: number): Promise<void> {
    const some = this.open.slice(0, most);
    const answers = await session.browseTogether(some.map(({ nodeId }) => nodeId));
    some.forEach(({ path }, at) => {
      const answer = answers[at] ?? { code: 'BadUnexpectedError' };
      if ('code' in answer) this.refused.push({ path, code: answer.code });
      else for (const child of answer) this.meet(child, path);
    });
    this.open = this.open.slice(some.length);
  }

  private meet({ nodeId, browseName, nodeClass }: BrowsedNode, above: readonly string[]): void {
    if (this.known.has(nodeId) || this.isTooLarge || above.length >= mostDepth) return;
    this.known.add(nodeId);
    const path = [...above, browseName];
    if (this.part === null || fitsPattern(this.part, path)) this.unread.push({ nodeId, path, nodeClass });
    if (this.part === null || mayFitBelow(this.part, path)) this.open.push({ nodeId, path });
  }
}

const within = (limit: number, usual: number, most: number): number => Math.min(limit || usual, most);
