import { explainedStatusCode } from '@loyal-hinge/core';
import type { ItemPattern } from '@loyal-hinge/core';
import type { BenchReading } from '@loyal-hinge/contract';
import { notFound } from '../../http/problems.js';
import { matchingNodes } from '../../ua/matching-nodes.js';
import type { MatchingNodes } from '../../ua/matching-nodes.js';
import { objectsFolder } from '../../ua/session.js';
import type { BrowsedNode, UaSession } from '../../ua/session.js';
import type { DescribedNode } from '../../ua/describe-node.js';
import type { WatchedItem } from '../../ua/subscription.js';
import { shapeOf } from '../../ua/value-shape.js';
import { saidValue, shownToType, variantOf } from '../../ua/write-value.js';
import { valueOf } from '../answers.js';
import type {
  BenchItem,
  BenchSession,
  BenchSubscription,
  NodeToWrite,
  WatchedHearer,
  WireValue,
  WriteAnswer,
} from './bench-session.js';

/** A session of OPC UA on the bench. */
export class UaBenchSession implements BenchSession {
  readonly ended: Promise<void>;
  readonly more: Pick<UaSession, 'history' | 'listen'>;

  constructor(private readonly session: UaSession) {
    this.ended = session.ended;
    this.more = session;
  }

  serverTime(): Promise<string | null> {
    return this.session.serverTime();
  }

  browse(parent: string | null): Promise<readonly BrowsedNode[]> {
    return this.session.browse(parent ?? objectsFolder);
  }

  matches(pattern: ItemPattern, signal: AbortSignal): Promise<MatchingNodes> {
    return matchingNodes(this.session, pattern, signal);
  }

  async read(nodeId: string): Promise<BenchReading> {
    const { session } = this;
    const [[read], unit, node] = await Promise.all([
      session.read([nodeId]),
      session.unitOf(nodeId),
      session.readToWrite(nodeId),
    ]);
    if (!read) throw notFound('node', nodeId);
    const { userAccessLevel } = read;
    return {
      ...valueOf(nodeId, read),
      shape: shapeOf(node.value, node.names),
      unit,
      may: [...userAccessLevel],
      mayWrite: userAccessLevel.includes('CurrentWrite'),
      mayLookBack: userAccessLevel.includes('HistoryRead'),
    };
  }

  describe(nodeId: string): Promise<DescribedNode> {
    return this.session.describe(nodeId);
  }

  async toWrite(nodeId: string): Promise<NodeToWrite> {
    const node = await this.session.readToWrite(nodeId);
    const { dataType, isArray, range, names, userAccessLevel, now, value } = node;
    return {
      ...{ dataType, isArray, range, names },
      mayWrite: userAccessLevel.includes('CurrentWrite'),
      value: { kind: 'ua', variant: value },
      said: now.value,
      shown: shownToType(node),
      valueOf: (elements) => {
        const variant = variantOf(node, elements);
        return { value: { kind: 'ua', variant }, said: saidValue(variant) };
      },
    };
  }

  async write(nodeId: string, value: WireValue): Promise<WriteAnswer> {
    if (value.kind !== 'ua') throw new Error('a value of another kind of session');
    const code = await this.session.write(nodeId, value.variant);
    return { code, refusal: code.startsWith('Bad') ? explainedStatusCode(code) : null };
  }

  async subscribe(publishingIntervalMs: number, hearer: WatchedHearer): Promise<BenchSubscription> {
    const subscription = await this.session.subscribe(publishingIntervalMs, hearer);
    return {
      add: async (wished, samplingIntervalMs) =>
        (await subscription.add(wished, samplingIntervalMs)).map((item: WatchedItem): BenchItem => ({
          ...item,
          isTold: true,
        })),
      remove: (keys) => subscription.remove(keys),
      end: () => subscription.end(),
    };
  }
}
