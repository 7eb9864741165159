import { variantText } from '../automation/variant.js';
import type { RemoteObject } from '../dcom/client.js';
import { hasFailed } from '../dcom/interfaces.js';
import { DataAccessServer } from '../opc/client.js';
import type { AddedItem, DataAccessGroup, ItemValue } from '../opc/client.js';
import { HeldServer } from './held-server.js';
import { problemOf } from './observations.js';
import type { ReadItem, WrittenItem } from './observations.js';
import { watchGroup } from './watch.js';
import type { Walking } from './walking.js';

const mostItemsSeen = 5000;
const someItems = 200;
/** Of what one pattern stands for. */
const mostFitting = 1000;
const usualRateMs = 1000;

/** Calls the server, looks for the items that are needed, reads and watches them. */
export async function useServer(walking: Walking, object: RemoteObject): Promise<void> {
  const { com, walk, note } = walking;
  const server = DataAccessServer.of(com, object);
  try {
    note({ step: 'access', status: await server.status(), problem: null });
  } catch (error) {
    return note({ step: 'access', status: null, problem: problemOf(error) });
  }
  if (walk.use) return HeldServer.hold(walking, server, walk.use);
  const { browse, read, watch, writes } = walk.needs;
  const items = browse ? await browseItems(walking, server) : walk.needs.items;
  if ((read || watch || writes?.length) && items.length > 0) await useGroup(walking, server, items);
}

/** @returns the items that are needed, with those that patterns stand for in their place */
async function browseItems({ walk: { needs }, note }: Walking, server: DataAccessServer): Promise<readonly string[]> {
  try {
    const begun = performance.now();
    const nameSpace = await server.nameSpace();
    const all = await server.allItems(mostItemsSeen);
    const there = new Set(all);
    const patterns = (needs.patterns ?? []).flatMap(({ text, fits }) => {
      const fitting = there.has(text) ? [] : all.filter(fits);
      const isWhole = fitting.length <= mostFitting && all.length < mostItemsSeen;
      const ms = Math.round(performance.now() - begun);
      return fitting.length === 0 ? [] : [{ text, items: fitting.slice(0, mostFitting), isWhole, ms }];
    });
    const standsFor = new Map(patterns.map(({ text, items }) => [text, items]));
    const missing = needs.items.filter((item) => !there.has(item) && !standsFor.has(item));
    const some = missing.length > 0 ? all.slice(0, someItems) : [];
    note({ step: 'browse', nameSpace, count: all.length, missing, some, patterns, problem: null });
    return [...new Set(needs.items.flatMap((item) => standsFor.get(item) ?? [item]))];
  } catch (error) {
    const nothing = { nameSpace: null, count: 0, missing: [], some: [], patterns: [] };
    note({ step: 'browse', ...nothing, problem: problemOf(error) });
    return needs.items;
  }
}

/** Reads and watches in one group, which is removed afterwards. */
async function useGroup(walking: Walking, server: DataAccessServer, wanted: readonly string[]): Promise<void> {
  const { needs } = walking.walk;
  const wantedMs = needs.watch?.updateRateMs ?? usualRateMs;
  let group: DataAccessGroup | null = null;
  let handles: readonly number[] = [];
  let added: readonly AddedItem[] = [];
  try {
    group = await server.addGroup('', wantedMs, false);
    const items = wanted.map((itemId, index) => ({ itemId, clientHandle: index + 1 }));
    added = await group.add(items, true);
    handles = added.flatMap((item) => (item.error === null ? item.serverHandle : []));
    if (needs.read) {
      const values = handles.length > 0 ? await group.read(handles, 'device') : [];
      walking.note({ step: 'read', items: readItems(added, values), problem: null });
    }
  } catch (error) {
    walking.note({ step: 'read', items: [], problem: problemOf(error) });
    handles = [];
  }
  const writes = needs.writes ?? [];
  if (group && needs.watch && handles.length > 0) await watchGroup(walking, group, wantedMs);
  if (group && writes.length > 0)
    await writeBack(
      walking,
      group,
      added.filter(({ itemId }) => writes.includes(itemId)),
    );
  try {
    if (group && handles.length > 0) {
      const there = group;
      await walking.walk.beside?.(async () => readItems(added, await there.read(handles, 'device')));
    }
  } finally {
    await group?.release().catch(() => undefined);
  }
}

/** Each item with its value; what could not be added has none. */
function readItems(added: readonly AddedItem[], values: readonly ItemValue[]): readonly ReadItem[] {
  const left = [...values];
  return added.map((item) => {
    const { itemId } = item;
    const unread = { quality: null, timestamp: null, value: null };
    if (item.error !== null) return { itemId, error: item.error, type: null, accessRights: null, ...unread };
    const { type, accessRights } = item;
    const value = left.shift();
    return value ? { itemId, type, accessRights, ...value } : { itemId, type, accessRights, error: 0, ...unread };
  });
}

/** Writes each item with the value that it has, and reads it back: on asking alone. */
async function writeBack({ note }: Walking, group: DataAccessGroup, items: readonly AddedItem[]): Promise<void> {
  try {
    const written: WrittenItem[] = [];
    for (const item of items) written.push(await writtenBack(group, item));
    note({ step: 'write', items: written, problem: null });
  } catch (error) {
    note({ step: 'write', items: [], problem: problemOf(error) });
  }
}

async function writtenBack(group: DataAccessGroup, item: AddedItem): Promise<WrittenItem> {
  const { itemId } = item;
  const unread = { itemId, outcome: 'not read' as const, before: null, after: null };
  if (item.error !== null) return { ...unread, error: item.error };
  const handles = [item.serverHandle];
  const [read] = await group.read(handles, 'device');
  if (!read || hasFailed(read.error)) return { ...unread, error: read?.error ?? 0 };
  const [error = 0] = await group.write(handles, [read.value]);
  if (hasFailed(error)) return { itemId, outcome: 'refused', error, before: read.value, after: null };
  const [back] = await group.read(handles, 'device');
  const isSame = back !== undefined && !hasFailed(back.error) && variantText(back.value) === variantText(read.value);
  return {
    itemId,
    outcome: isSame ? 'same value' : 'other value',
    error,
    before: read.value,
    after: back?.value ?? null,
  };
}
