import { expandedNeeds, patternInPath, signInNameOf } from '@loyal-hinge/core';
import { matchingNodes } from '../ua/matching-nodes.js';
import type { MatchingNodes } from '../ua/matching-nodes.js';
import type { FactOf, NeededItem } from '@loyal-hinge/core';
import type { ReadItem, UaSession } from '../ua/session.js';
import { lookBehind } from './field/look-behind.js';
import type { ServedValue } from './field/device-visit.js';
import { ItemFinder } from './find-items.js';
import { listenToAlarms } from './listen-to-alarms.js';
import { readHistories } from './read-histories.js';
import { watch } from './watch-items.js';
import type { Walk } from './walk.js';

export async function useItems(walk: Walk, session: UaSession): Promise<void> {
  const { needs } = walk.subject.link;
  if (needs.length === 0) return;
  walk.begin('browse', 'the search for items');
  const finder = new ItemFinder(session);
  const found = new Map<string, string>();
  const fitting = new Map<string, readonly string[]>();
  for (const { path } of needs) {
    const fact = await finder.find(path);
    walk.signal.throwIfAborted();
    // What has such a name is meant, whatever else its signs could stand for.
    const matches = fact.outcome === 'found' ? [] : await noteMatches(walk, session, path);
    if (matches.length > 0)
      fitting.set(
        path,
        matches.map((match) => match.path),
      );
    else walk.log.note(fact);
    for (const match of matches) found.set(match.path, match.nodeId);
    if (fact.outcome === 'found') found.set(path, fact.nodeId);
  }
  const wanted = expandedNeeds(needs, fitting);
  await noteSeenByOthers(
    walk,
    wanted.flatMap(({ path }) => (found.has(path) ? [] : [path])),
  );
  const there = wanted.flatMap((item) => {
    const nodeId = found.get(item.path);
    return nodeId === undefined ? [] : [{ ...item, nodeId }];
  });
  const withValues = there.filter(({ uses }) =>
    uses.some((use) => use === 'read' || use === 'watch' || use === 'write'),
  );
  walk.foundItems = withValues;
  if (withValues.length > 0) await useValues(walk, session, withValues);
  const recorded = there.filter(({ uses }) => uses.includes('history'));
  if (recorded.length > 0) await readHistories(walk, session, recorded);
  const sources = there.filter(({ uses }) => uses.includes('alarms'));
  if (sources.length > 0) await listenToAlarms(walk, session, sources);
  const nodes = new Map(withValues.map(({ path, nodeId }) => [path, nodeId]));
  await lookBehind(walk, [...nodes.keys()], async (paths) => {
    const read = await session.read(paths.map((path) => nodes.get(path) ?? ''));
    return read.map(servedValue);
  });
}

const servedValue = ({ code, number, value, dataType }: ReadItem): ServedValue => {
  if (code.startsWith('Bad')) return null;
  return number ?? (dataType === 'Boolean' ? value === 'true' : value);
};

/** Variables that fit a needed path, where that is a pattern; each counts as found. */
async function noteMatches(walk: Walk, session: UaSession, path: string): Promise<MatchingNodes['nodes']> {
  const pattern = patternInPath(path);
  if (!pattern) return [];
  const begun = performance.now();
  const { nodes, isWhole } = await matchingNodes(session, pattern, walk.signal);
  if (nodes.length === 0) return [];
  const ms = Math.round(performance.now() - begun);
  walk.log.note({ kind: 'item-pattern', pattern: path, paths: nodes.map((node) => node.path), isWhole, ms });
  for (const node of nodes)
    walk.log.note({ kind: 'item-found', path: node.path, outcome: 'found', nodeId: node.nodeId, ms });
  return nodes;
}

/** What nobody found is not there; what others found is hidden from this user. */
async function noteSeenByOthers(walk: Walk, missing: readonly string[]): Promise<void> {
  if (missing.length === 0 || !walk.means.seenByOthers) return;
  for (const seen of await walk.means.seenByOthers(missing))
    walk.log.note({ kind: 'item-seen-by-other', ...seen }, 'reported');
}

type FoundItem = NeededItem & { readonly nodeId: string };

async function useValues(walk: Walk, session: UaSession, there: readonly FoundItem[]): Promise<void> {
  walk.begin('read', 'reading');
  const begun = performance.now();
  const values = await session.read(there.map((item) => item.nodeId));
  const ms = Math.round(performance.now() - begun);
  there.forEach(({ path, nodeId }, index) => {
    const read = values[index];
    if (read) walk.log.note(itemRead(path, nodeId, read, ms));
  });
  for (const { path } of there) {
    const earlier = walk.means.earlierTypes.get(path);
    if (earlier !== undefined) walk.log.note({ kind: 'earlier-item-type', path, dataType: earlier }, 'reported');
  }
  const rights = await session.rights(there.map((item) => item.nodeId));
  there.forEach(({ path, nodeId }, index) => {
    const read = rights[index];
    if (read) walk.log.note({ kind: 'item-rights', path, nodeId, ...read });
  });
  const watched = there.filter((item) => item.uses.includes('watch'));
  if (watched.length > 0) await watch(walk, session, watched);
  await proveWrites(walk, session, there);
}

/** Writes only what a person asked for, and of that only what the link needs to write. */
async function proveWrites(walk: Walk, session: UaSession, there: readonly FoundItem[]): Promise<void> {
  const { link, server } = walk.subject;
  const as = {
    userName: signInNameOf(link.identity),
    applicationUri: server.applicationUri,
  };
  const { writes, earlierWrites } = walk.means;
  for (const { path, nodeId, uses } of there) {
    if (!uses.includes('write')) continue;
    if (writes?.paths.includes(path)) {
      walk.begin('write', `writing ${path}`);
      const begun = performance.now();
      const written = await session.writeSame(nodeId);
      const ms = Math.round(performance.now() - begun);
      walk.log.note({ kind: 'item-written', path, nodeId, ...written, by: writes.by, as, ms });
    } else {
      const earlier = earlierWrites.get(path);
      if (earlier) walk.log.note({ kind: 'earlier-write', path, on: earlier.on, by: earlier.by, as }, 'reported');
    }
  }
}

function itemRead(
  path: string,
  nodeId: string,
  read: ReadItem,
  ms: number,
): Omit<FactOf<'item-read'>, 'id' | 'source' | 'at'> {
  const { code, value, dataType, sourceTimestamp, serverTimestamp, accessLevel, userAccessLevel } = read;
  return {
    kind: 'item-read',
    path,
    nodeId,
    code,
    value,
    dataType,
    sourceTimestamp,
    serverTimestamp,
    accessLevel,
    userAccessLevel,
    ms,
  };
}
