import {
  fitsPattern,
  fitsWords,
  groupGaps,
  groupRights,
  isPatternFault,
  itemPattern,
  refusalOf,
  rightBit,
  rightNames,
  rightsGaps,
  rightsOn,
  sayRefusal,
  compareRights,
  toCsv,
} from '@loyal-hinge/core';
import type { GapRight, NodeAttributes, RatedNode, RightBits, RightsThen } from '@loyal-hinge/core';
import type { RightsChangeView, RightsView, RightsWish } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { conflict, notFound } from '../http/problems.js';
import { rightsServerOf, serverWithIdentities } from './identities.js';
import type { ServerIdentity, ServerWithIdentities } from './identities.js';
import { covers, laidOver, nodesLaid } from './laid-over.js';
import type { SeenInMode } from './laid-over.js';
import {
  findSnapshot,
  newestByServer,
  nodesOf,
  patternOf,
  snapshotView,
  snapshotsOf,
  usableSnapshotsOf,
} from './store.js';
import type { KeptNode, SnapshotRow } from './store.js';

const mostGroups = 500;
const mostGaps = 500;
const mostChanges = 2_000;
const anonymous = 'anonymous';

export interface Column {
  readonly identity: ServerIdentity;
  readonly name: string;
  /** Laid over each other, the newest last; none: nothing is known. */
  readonly snapshots: readonly SnapshotRow[];
  readonly nodes: ReadonlyMap<string, SeenInMode>;
}

/** What is known of each identity of a server: the newest snapshot of all nodes, and over it newer ones of parts. */
export async function columnsOf(db: Database, server: ServerWithIdentities): Promise<readonly Column[]> {
  const usable = await usableSnapshotsOf(db, server.id);
  return Promise.all(
    server.identities.map(async (identity) => {
      const snapshots = laidOver(usable.filter(({ userName }) => userName === identity.userName));
      return { identity, name: identity.userName || anonymous, snapshots, nodes: await nodesLaid(db, snapshots) };
    }),
  );
}

/** Something was seen as this identity. */
export const isKnown = ({ snapshots }: Column): boolean => snapshots.length > 0;

/**
 * Every node that somebody saw, with what each may do there; who did not see it may do nothing. Folders and the like, on
 * which nobody can do anything, are left out.
 */
export function ratedNodes(columns: readonly Column[]): readonly RatedNode[] {
  const all = new Map<string, KeptNode>();
  for (const { nodes } of columns) for (const [id, node] of nodes) if (!all.has(id)) all.set(id, node);
  return [...all.values()].flatMap(({ nodeId, path, attributes: { nodeClass } }) => {
    const rights = columns.map(({ nodes }) => {
      const node = nodes.get(nodeId);
      return node ? rightsOn(node.attributes, node.mode) : 0;
    });
    const isUsed = nodeClass === 'Variable' || nodeClass === 'Method' || rights.some((bits) => bits !== 0);
    return isUsed ? [{ nodeId, path, rights }] : [];
  });
}

/** The rights on one server, grouped, and compared with what links need. */
export async function rightsViewOf(db: Database, serverId: string, wish: RightsWish): Promise<RightsView> {
  const server = await serverWithIdentities(db, serverId);
  /* Snapshots first: of one that is said to be over, the nodes are among those that are read afterwards. */
  const snapshots = await snapshotsOf(db, serverId);
  const [columns, newest] = await Promise.all([columnsOf(db, server), newestByServer(db)]);
  const nodes = ratedNodes(columns);
  const fits = fitsWish(wish);
  const groups = groupRights(nodes.filter(fits));
  const known = columns.filter(isKnown);
  const gaps = rightsGaps(
    nodes.map((node) => ({ ...node, rights: node.rights.filter((_, at) => columns[at] && isKnown(columns[at])) })),
    known.map(({ name, identity }) => ({
      name,
      isAnonymous: identity.userName === '',
      needs: identity.links.flatMap(({ needs }) => needs),
    })),
  ).filter(({ identity, nodeId, path }) => {
    const column = known.find(({ name }) => name === identity);
    // Where nobody looked, nothing is missing.
    return column && (column.nodes.has(nodeId) || covers(column, path));
  });
  const shownGaps = groupGaps(gaps.filter(({ path, nodeId }) => fits({ path, nodeId, rights: [-1] })));
  const count = (kind: 'missing' | 'excess'): number => gaps.filter(({ gap }) => gap === kind).length;
  return {
    server: rightsServerOf(server, newest.get(serverId) ?? null),
    identities: columns.map(({ name, identity, snapshots: own }) => ({
      name,
      isAnonymous: identity.userName === '',
      snapshots: own.map(snapshotView),
    })),
    snapshots: snapshots.map(snapshotView),
    nodes: nodes.length,
    groupCount: groups.length,
    groups: groups.slice(0, mostGroups).map(({ pattern, fitsOthers, rights, nodes: size, examples }) => ({
      pattern,
      fitsOthers,
      rights: [...rights],
      nodes: size,
      examples: examples.map((node) => ({
        nodeId: node.nodeId,
        path: node.path.join('/'),
        rights: [...node.rights],
      })),
    })),
    gaps: shownGaps.slice(0, mostGaps).map(({ example, ...gap }) => ({
      ...gap,
      example: example.path.join('/'),
      why: gap.gap === 'missing' ? whyMissing(columns, gap.identity, example.nodeId, gap.right) : null,
    })),
    gapCounts: {
      missing: count('missing'),
      excess: count('excess'),
      anonymousWrite: gaps.filter(
        ({ gap, right, identity }) => gap === 'excess' && right === 'write' && identity === anonymous,
      ).length,
    },
  };
}

function whyMissing(columns: readonly Column[], name: string, nodeId: string, right: GapRight): string {
  const column = columns.find((one) => one.name === name);
  const node = column?.nodes.get(nodeId);
  if (!column || !node) return 'This user does not see the node.';
  const refusal = refusalOf(node.attributes, right, node.mode);
  return refusal ? sayRefusal(refusal, right) : '';
}

/** Whether a node is looked for: by a pattern where there is one, else by words; and only those with a right that somebody has. */
export function fitsWish({ find, right }: RightsWish): (node: RatedNode) => boolean {
  const bit = right ? rightBit(right) : 0;
  const hasRight = ({ rights }: RatedNode): boolean => bit === 0 || rights.some((bits) => (bits & bit) !== 0);
  const pattern = find && /[*?[\\]/.test(find) ? itemPattern(find) : null;
  if (pattern && !isPatternFault(pattern)) return (node) => hasRight(node) && fitsPattern(pattern, node.path);
  const fits = fitsWords(find ?? '');
  return (node) => hasRight(node) && fits(node.path.join('/'));
}

/** Every node with what each identity may do there. */
export async function rightsCsvOf(db: Database, serverId: string): Promise<string> {
  const columns = (await columnsOf(db, await serverWithIdentities(db, serverId))).filter(isKnown);
  const header = ['path', 'node id', ...columns.map(({ name }) => name)];
  const rows = ratedNodes(columns).map(({ path, nodeId, rights }) => [path.join('/'), nodeId, ...rights.map(namesOf)]);
  return toCsv(header, rows);
}

const namesOf = (bits: RightBits): string => rightNames.filter((name) => (bits & rightBit(name)) !== 0).join('; ');

/** What has become of somebody’s rights between two snapshots of the same identity. */
export async function rightsChangesOf(
  db: Database,
  beforeId: string,
  afterId: string,
): Promise<{ readonly changes: RightsChangeView[]; readonly total: number }> {
  const [before, after] = await Promise.all([thenOf(db, beforeId), thenOf(db, afterId)]);
  if (before.row.serverId !== after.row.serverId || before.row.userName !== after.row.userName)
    throw conflict('These are snapshots of different servers or users.', 'Choose two of the same.');
  // Of what only one of them looked at, nothing can be said.
  const parts = [before.row, after.row].flatMap(({ part }) => patternOf(part) ?? []);
  const inBoth = ({ identity, nodes }: RightsThen): RightsThen => ({
    identity,
    nodes: new Map([...nodes].filter(([, { path }]) => parts.every((part) => fitsPattern(part, path)))),
  });
  const changes = compareRights(inBoth(before.then), inBoth(after.then));
  return {
    total: changes.length,
    changes: changes
      .slice(0, mostChanges)
      .map(({ nodeId, path, change, rights }) => ({ nodeId, path: path.join('/'), change, rights })),
  };
}

async function thenOf(db: Database, id: string): Promise<{ readonly row: SnapshotRow; readonly then: RightsThen }> {
  const row = await findSnapshot(db, id);
  if (!row) throw notFound('snapshot', id);
  const rated = (attributes: NodeAttributes): RightBits => rightsOn(attributes, row.mode ?? 'None');
  const nodes = (await nodesOf(db, id)).map(
    ({ nodeId, path, attributes }) => [nodeId, { path, rights: rated(attributes) }] as const,
  );
  return { row, then: { identity: row.userName || anonymous, nodes: new Map(nodes) } };
}
