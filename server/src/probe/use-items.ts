import { signInNameOf } from '@loyal-hinge/core';
import type { FactOf, NeededItem } from '@loyal-hinge/core';
import type { ReadItem, UaSession } from '../ua/session.js';
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
  for (const { path } of needs) {
    const fact = await finder.find(path);
    walk.signal.throwIfAborted();
    walk.log.note(fact);
    if (fact.outcome === 'found') found.set(path, fact.nodeId);
  }
  await noteSeenByOthers(
    walk,
    needs.flatMap(({ path }) => (found.has(path) ? [] : [path])),
  );
  const there = needs.flatMap((item) => {
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
