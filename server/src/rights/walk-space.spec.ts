import { isPatternFault, itemPattern } from '@loyal-hinge/core';
import type { NodeAttributes } from '@loyal-hinge/core';
import type { BrowsedNode, OperationLimits, UaSession } from '../ua/session.js';
import { objectsFolder } from '../ua/session.js';
import { SpaceWalk } from './walk-space.js';
import type { SeenNode } from './walk-space.js';

type Space = Readonly<Record<string, readonly string[] | { code: string }>>;
const attributes = (nodeClass: NodeAttributes['nodeClass']): NodeAttributes => ({
  nodeClass,
  accessLevel: 1,
  userAccessLevel: 1,
  userPermissions: null,
  accessRestrictions: null,
  userWriteMask: 0,
  userExecutable: null,
});

/** A session on a space that is told by the children of each node; its names are their node ids. */
function sessionOn(space: Space, limits: Partial<OperationLimits> = {}, endsAfter = Infinity) {
  const asked = { browsed: [] as number[], read: [] as number[] };
  let requests = 0;
  const request = (): void => {
    requests += 1;
    if (requests > endsAfter) throw new Error('BadSessionClosed');
  };
  const session = {
    operationLimits: () => Promise.resolve({ nodesPerRead: 0, nodesPerBrowse: 0, ...limits }),
    browseTogether: (nodeIds: readonly string[]) => {
      request();
      asked.browsed.push(nodeIds.length);
      return Promise.resolve(
        nodeIds.map((id) => {
          const children = space[id] ?? [];
          return 'code' in children
            ? children
            : children.map((child): BrowsedNode => ({
                nodeId: child,
                browseName: child,
                displayName: child,
                nodeClass: 'Variable',
              }));
        }),
      );
    },
    attributesOf: (nodes: readonly Pick<BrowsedNode, 'nodeClass'>[]) => {
      request();
      asked.read.push(nodes.length);
      return Promise.resolve(nodes.map(({ nodeClass }) => attributes(nodeClass)));
    },
  };
  return { session: session as unknown as UaSession, asked };
}

async function walked(walk: SpaceWalk, session: UaSession): Promise<readonly string[]> {
  const seen: SeenNode[] = [];
  const hear = (some: readonly SeenNode[]): Promise<void> => Promise.resolve(void seen.push(...some));
  await walk.goOn(session, hear, new AbortController().signal).catch(() => undefined);
  return seen.map(({ path }) => path.join('/'));
}

describe('a walk through all nodes', () => {
  it('sees each node once, by the first path that leads to it, and ends on circles', async () => {
    const space = { [objectsFolder]: ['a', 'b'], a: ['shared', 'a'], b: ['shared', objectsFolder], shared: ['a'] };
    const walk = new SpaceWalk();
    expect(await walked(walk, sessionOn(space).session)).toEqual(['a', 'b', 'a/shared']);
    expect([walk.isWhole, walk.nodes]).toEqual([true, 3]);
  });

  it('of a part looks only where something of it can be', async () => {
    const space = { [objectsFolder]: ['Lehr', 'Furnace'], Lehr: ['A', 'B'], A: ['Deep'], Furnace: ['C'], C: ['D'] };
    const read = itemPattern('Lehr/*');
    const { session, asked } = sessionOn(space);
    const walk = new SpaceWalk(isPatternFault(read) ? null : read);
    expect(await walked(walk, session)).toEqual(['Lehr/A', 'Lehr/B']);
    expect([walk.isWhole, walk.nodes]).toEqual([true, 2]);
    // Objects, then the Lehr alone.
    expect(asked.browsed).toEqual([1, 1]);
  });

  it('leaves the Server object out', async () => {
    const space = { [objectsFolder]: ['ns=0;i=2253', 'plant'], 'ns=0;i=2253': ['secret'] };
    expect(await walked(new SpaceWalk(), sessionOn(space).session)).toEqual(['plant']);
  });

  it('asks for no more at once than the server takes', async () => {
    const many = Array.from({ length: 90 }, (_, at) => `n${at}`);
    const { session, asked } = sessionOn({ [objectsFolder]: many }, { nodesPerRead: 50, nodesPerBrowse: 7 });
    expect(await walked(new SpaceWalk(), session)).toHaveLength(90);
    expect(Math.max(...asked.browsed)).toBe(7);
    expect(Math.max(...asked.read)).toBe(10);
  });

  it('is careful where the server does not say, and where it says too much', async () => {
    const many = Array.from({ length: 900 }, (_, at) => `n${at}`);
    const silent = sessionOn({ [objectsFolder]: many });
    await walked(new SpaceWalk(), silent.session);
    expect([Math.max(...silent.asked.browsed), Math.max(...silent.asked.read)]).toEqual([50, 100]);
    const boasting = sessionOn({ [objectsFolder]: many }, { nodesPerRead: 1_000_000, nodesPerBrowse: 1_000_000 });
    await walked(new SpaceWalk(), boasting.session);
    expect([Math.max(...boasting.asked.browsed), Math.max(...boasting.asked.read)]).toEqual([200, 400]);
  });

  it('goes on with another session where one has ended, and sees nothing twice', async () => {
    const space = Object.fromEntries([
      [objectsFolder, ['a', 'b', 'c']] as const,
      ...['a', 'b', 'c'].map((id) => [id, [`${id}1`, `${id}2`]] as const),
    ]);
    const walk = new SpaceWalk();
    const seen: string[] = [];
    for (let sessions = 0; sessions < 20 && !walk.isWhole; sessions += 1)
      seen.push(...(await walked(walk, sessionOn(space, { nodesPerRead: 5, nodesPerBrowse: 1 }, 2).session)));
    expect(walk.isWhole).toBe(true);
    expect([...seen].sort()).toEqual(['a', 'a/a1', 'a/a2', 'b', 'b/b1', 'b/b2', 'c', 'c/c1', 'c/c2']);
  });

  it('notes what can’t be browsed, and ends when it is told to', async () => {
    const walk = new SpaceWalk();
    const space: Space = { [objectsFolder]: ['open', 'closed'], closed: { code: 'BadUserAccessDenied' } };
    expect(await walked(walk, sessionOn(space).session)).toEqual(['open', 'closed']);
    expect(walk.refused).toEqual([{ path: ['closed'], code: 'BadUserAccessDenied' }]);
    const ending = new AbortController();
    ending.abort(new Error('it was cancelled.'));
    const other = new SpaceWalk();
    await expect(other.goOn(sessionOn(space).session, () => Promise.resolve(), ending.signal)).rejects.toThrow(
      'cancelled',
    );
    expect(other.isWhole).toBe(false);
  });

  it('goes no deeper than anybody builds, though a server has no bottom', async () => {
    const deep = Object.fromEntries(
      Array.from({ length: 200 }, (_, at) => [at === 0 ? objectsFolder : `n${at}`, [`n${at + 1}`]]),
    );
    expect(await walked(new SpaceWalk(), sessionOn(deep).session)).toHaveLength(60);
  });
});
