import { sayCode } from '@loyal-hinge/core';
import type { ItemPattern } from '@loyal-hinge/core';
import type { BenchReading } from '@loyal-hinge/contract';
import { hasFailed, itemRights, propertyIds, qualityWords, variantText } from '@loyal-hinge/classic';
import type { AddedItem, DataAccessGroup, HeldServer, ItemProperty, ItemValue, Variant } from '@loyal-hinge/classic';
import { conflict } from '../../http/problems.js';
import type { DescribedNode } from '../../ua/describe-node.js';
import { matchingIn } from '../../ua/matching-nodes.js';
import type { MatchingNodes } from '../../ua/matching-nodes.js';
import type { BrowsedNode } from '../../ua/session.js';
import type {
  BenchSession,
  BenchSubscription,
  NodeToWrite,
  WatchedHearer,
  WireValue,
  WriteAnswer,
} from './bench-session.js';
import { ClassicSubscription } from './classic-subscription.js';
import { told } from './classic-told.js';
import {
  codeWords,
  readClassicValue,
  shapeOfClassic,
  shownToType,
  typeName,
  typedName,
  variantOfTyped,
} from './classic-values.js';

type Added = Extract<AddedItem, { readonly error: null }>;

/** What stands for the top of the items, where a branch has its path. */
const top: readonly string[] = [];
const handRateMs = 1000;
const rightWords = ['read', 'write'] as const;

/** A session of classic Data Access on the bench. Items go by their item ids, branches by their paths. */
export class ClassicBenchSession implements BenchSession {
  readonly ended: Promise<void>;
  readonly more = null;
  /** What is read and written by hand is in a group of its own, which rests. */
  private hand: Promise<DataAccessGroup> | null = null;
  private readonly added = new Map<string, Promise<Added>>();
  /** The server keeps one place in its items for us: whoever browses waits. */
  private turn: Promise<unknown> = Promise.resolve();

  constructor(private readonly held: HeldServer) {
    this.ended = held.ended;
  }

  async serverTime(): Promise<string | null> {
    const { currentTime } = await told(() => this.held.server.status());
    return currentTime === null ? null : new Date(currentTime).toISOString();
  }

  browse(parent: string | null): Promise<readonly BrowsedNode[]> {
    const path = parent === null ? top : pathIn(parent);
    // An item has nothing below it.
    return path === null ? Promise.resolve([]) : this.browsePath(path);
  }

  matches(pattern: ItemPattern, signal: AbortSignal): Promise<MatchingNodes> {
    const childrenOf = async (nodeIds: readonly string[]) => {
      const levels: (readonly BrowsedNode[])[] = [];
      for (const nodeId of nodeIds) levels.push(await this.browse(nodeId));
      return levels;
    };
    return matchingIn({ top: nodeIdOf(top), together: 1, childrenOf }, pattern, signal);
  }

  async read(nodeId: string): Promise<BenchReading> {
    const [item, value] = await this.readByHand(nodeId);
    const properties = await told(() => this.held.server.properties(nodeId));
    const { dataType, ...read } = readClassicValue(value);
    return {
      nodeId,
      ...read,
      status: read.code,
      dataType: dataType ?? typeName(item.type),
      shape: shapeOfClassic(value.value),
      unit: textIn(properties, propertyIds.unit),
      may: rightsIn(item.accessRights),
      mayWrite: (item.accessRights & itemRights.write) !== 0,
      mayLookBack: false,
    };
  }

  async describe(nodeId: string): Promise<DescribedNode> {
    const properties = await told(() => this.held.server.properties(nodeId));
    const attributes = properties.map(({ id, description, value }) => ({
      name: `${id}: ${description}`,
      value: propertyWords(id, value),
    }));
    return { attributes, references: [], referenceCount: 0 };
  }

  async toWrite(nodeId: string): Promise<NodeToWrite> {
    const [item, { value, error, quality }] = await this.readByHand(nodeId);
    if (hasFailed(error))
      throw conflict(
        `The item can’t be read: ${codeWords({ error, quality })}.`,
        'It is written only where its type is known.',
      );
    const properties = await told(() => this.held.server.properties(nodeId));
    return {
      dataType: typedName(value.type),
      isArray: 'array' in value,
      range: rangeIn(properties),
      names: null,
      mayWrite: (item.accessRights & itemRights.write) !== 0,
      value: { kind: 'classic', variant: value },
      said: variantText(value),
      shown: shownToType(value),
      valueOf: (elements) => {
        const variant = variantOfTyped(value, elements);
        return { value: { kind: 'classic', variant }, said: variantText(variant) };
      },
    };
  }

  async write(nodeId: string, value: WireValue): Promise<WriteAnswer> {
    if (value.kind !== 'classic') throw new Error('a value of another kind of session');
    const { serverHandle } = await this.itemOf(nodeId);
    const [error = 0] = await told(async () => (await this.handGroup()).write([serverHandle], [value.variant]));
    return { code: error === 0 ? 'Good' : sayCode(error), refusal: hasFailed(error) ? sayCode(error) : null };
  }

  subscribe(publishingIntervalMs: number, hearer: WatchedHearer): Promise<BenchSubscription> {
    return Promise.resolve(new ClassicSubscription(this.held, publishingIntervalMs, hearer));
  }

  private browsePath(path: readonly string[]): Promise<readonly BrowsedNode[]> {
    const browsed = this.turn.then(() => told(() => this.held.server.browse(path)));
    this.turn = browsed.catch(() => undefined);
    return browsed.then(({ branches, items }) => [
      ...branches.map((name) => nodeOf(nodeIdOf([...path, name]), name, 'Object')),
      ...items.map(({ name, itemId }) => nodeOf(itemId, name, 'Variable')),
    ]);
  }

  private async readByHand(nodeId: string): Promise<readonly [Added, ItemValue]> {
    const item = await this.itemOf(nodeId);
    const [value] = await told(async () => (await this.handGroup()).read([item.serverHandle], 'device'));
    if (!value) throw conflict(`The server says nothing of “${nodeId}”.`, 'Read it again.');
    return [item, value];
  }

  /** An item in the group by hand, added once. */
  private itemOf(nodeId: string): Promise<Added> {
    const known = this.added.get(nodeId);
    if (known) return known;
    const adding = told(async () => {
      const [item] = await (await this.handGroup()).add([{ itemId: nodeId, clientHandle: this.added.size }], true);
      if (!item) throw conflict(`The server says nothing of “${nodeId}”.`, 'Choose it again.');
      if (item.error !== null)
        throw conflict(`“${nodeId}” can’t be used: ${sayCode(item.error)}.`, 'Choose another item.');
      return item;
    });
    this.added.set(nodeId, adding);
    adding.catch(() => this.added.delete(nodeId));
    return adding;
  }

  private handGroup(): Promise<DataAccessGroup> {
    if (!this.hand) {
      const adding = this.held.server.addGroup('', handRateMs, false);
      this.hand = adding;
      adding.catch(() => (this.hand = null));
    }
    return this.hand;
  }
}

/** A branch goes by its path, so that none is taken for an item. */
const branchMark = 'branch ';
const nodeIdOf = (path: readonly string[]): string => `${branchMark}${JSON.stringify(path)}`;

/** The path of a branch; null: it is an item. */
function pathIn(nodeId: string): readonly string[] | null {
  if (!nodeId.startsWith(branchMark)) return null;
  try {
    const path: unknown = JSON.parse(nodeId.slice(branchMark.length));
    if (Array.isArray(path) && path.every((name): name is string => typeof name === 'string')) return path;
  } catch {
    // An item may be called so.
  }
  return null;
}

const nodeOf = (nodeId: string, name: string, nodeClass: 'Object' | 'Variable'): BrowsedNode => ({
  nodeId,
  browseName: name,
  displayName: name,
  nodeClass,
});

const valueIn = (properties: readonly ItemProperty[], wanted: number): Variant | undefined =>
  properties.find(({ id }) => id === wanted)?.value;

function textIn(properties: readonly ItemProperty[], id: number): string {
  const value = valueIn(properties, id);
  return value === undefined ? '' : variantText(value);
}

/** Of properties that each server has, what their numbers mean. */
function propertyWords(id: number, value: Variant): string {
  const number = 'value' in value && typeof value.value === 'number' ? value.value : null;
  if (number === null) return variantText(value);
  if (id === propertyIds.type) return typeName(number);
  if (id === propertyIds.quality) return qualityWords(number & 0xffff);
  if (id === propertyIds.accessRights) return rightsIn(number).join(', ') || 'none';
  return variantText(value);
}

const rightsIn = (accessRights: number): string[] =>
  rightWords.filter((word) => (accessRights & itemRights[word]) !== 0);

/** The engineering range, where the server tells both of its ends. */
function rangeIn(properties: readonly ItemProperty[]): { readonly low: number; readonly high: number } | null {
  const [low, high] = [propertyIds.lowEu, propertyIds.highEu].map((id) => {
    const value = valueIn(properties, id);
    return value && 'value' in value && typeof value.value === 'number' ? value.value : null;
  });
  return low !== null && low !== undefined && high !== null && high !== undefined && low < high ? { low, high } : null;
}
