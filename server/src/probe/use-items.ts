import type { FactOf } from '@loyal-hinge/core';
import type { ReadItem, UaSession } from '../ua/session.js';
import { ItemFinder } from './find-items.js';
import { watch } from './watch-items.js';
import type { Walk } from './walk.js';

export async function useItems(walk: Walk, session: UaSession): Promise<void> {
  const { needs } = walk.subject.link;
  if (needs.length === 0) return;
  walk.begin('browse', 'the search for items');
  const finder = new ItemFinder(session);
  const found = new Map<string, string>();
  for (const { path } of needs) {
    const fact = await finder.find(path);
    walk.signal.throwIfAborted();
    walk.log.note(fact);
    if (fact.outcome === 'found') found.set(path, fact.nodeId);
  }
  const there = needs.flatMap((item) => {
    const nodeId = found.get(item.path);
    return nodeId === undefined ? [] : [{ ...item, nodeId }];
  });
  walk.foundItems = there;
  if (there.length === 0) return;
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
