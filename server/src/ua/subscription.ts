import { AttributeIds, ClientMonitoredItemGroup, TimestampsToReturn, resolveNodeId } from 'node-opcua-client';
import type { ClientMonitoredItemBase, ClientSession, ClientSubscription, DataValue } from 'node-opcua-client';
import { failureOf } from './failure.js';
import { inRequests, operationLimit } from './in-requests.js';
import { endOf } from './monitored-item.js';
import type { Limited } from './monitored-item.js';
import { readValue } from './read-value.js';
import type { ReadValue } from './read-value.js';

export interface ItemToWatch {
  /** By which its values are told apart. */
  readonly key: number;
  readonly nodeId: string;
}

export interface WatchedItem extends ItemToWatch {
  /** Whether it is watched. */
  readonly code: string;
  readonly revisedSamplingIntervalMs: number;
  readonly revisedPublishingIntervalMs: number;
}

export interface SubscriptionHearer {
  /** @param isOverflown values before this one were lost at the server, whose queue was full (Part 4 §7.39.1, Overflow) */
  changed(key: number, value: ReadValue, isOverflown: boolean): void;
  alive?(): void;
}

/** So many values of an item wait at the server from one message to the next. */
const queueSize = 10;
/** Of more items one request grows long, and its answer late. */
const mostAtOnce = 500;

/** A subscription whose items come and go (Part 4 §5.13, §5.14). */
export class UaSubscription {
  private readonly items = new Map<number, ClientMonitoredItemBase>();
  /** Ends it with all its items; never throws. */
  readonly end: () => Promise<void>;

  private constructor(
    private readonly session: ClientSession,
    private readonly subscription: ClientSubscription,
    private readonly limited: Limited,
    private readonly hearer: SubscriptionHearer,
  ) {
    this.end = endOf(subscription);
  }

  static async begin(
    session: ClientSession,
    publishingIntervalMs: number,
    limited: Limited,
    hearer: SubscriptionHearer,
  ): Promise<UaSubscription> {
    const subscription = await limited(
      session.createSubscription2({
        requestedPublishingInterval: publishingIntervalMs,
        requestedLifetimeCount: 1000,
        requestedMaxKeepAliveCount: 5,
        maxNotificationsPerPublish: 1000,
        publishingEnabled: true,
        priority: 1,
      }),
    );
    subscription.on('keepalive', () => hearer.alive?.());
    return new UaSubscription(session, subscription, limited, hearer);
  }

  /** Watches further items, many in one request; each has a code of its own. */
  async add(wished: readonly ItemToWatch[], samplingIntervalMs: number): Promise<WatchedItem[]> {
    const { session, limited } = this;
    const begun: WatchedItem[] = [];
    for (let from = 0; from < wished.length; from += mostAtOnce) {
      const some = wished.slice(from, from + mostAtOnce);
      begun.push(
        ...(await inRequests({ session, limit: operationLimit.monitoredItemsPerCall, limited }, some, (part) =>
          this.addTogether(part, samplingIntervalMs),
        ).catch((error: unknown) => some.map((wish) => this.told(wish, failureOf(error).code, samplingIntervalMs)))),
      );
    }
    return begun;
  }

  /** Lets items go; those that are not there are passed over. */
  async remove(keys: readonly number[]): Promise<void> {
    await Promise.all(
      keys.flatMap((key) => {
        const item = this.items.get(key);
        this.items.delete(key);
        return item ? [this.limited(item.terminate()).catch(() => undefined)] : [];
      }),
    );
  }

  private async addTogether(part: readonly ItemToWatch[], samplingIntervalMs: number): Promise<WatchedItem[]> {
    const sound = part.filter(({ nodeId }) => isNodeId(nodeId));
    const items = sound.length > 0 ? await this.monitored(sound, samplingIntervalMs) : [];
    const byKey = new Map(sound.map(({ key }, index) => [key, items[index]]));
    return part.map((wish) => {
      const item = byKey.get(wish.key);
      const code = item?.statusCode.name ?? 'BadNodeIdInvalid';
      if (item && code === 'Good') this.items.set(wish.key, item);
      return this.told(wish, code, item?.monitoringParameters.samplingInterval ?? samplingIntervalMs);
    });
  }

  private told = (wish: ItemToWatch, code: string, revisedSamplingIntervalMs: number): WatchedItem => ({
    ...wish,
    code,
    revisedSamplingIntervalMs,
    revisedPublishingIntervalMs: this.subscription.publishingInterval,
  });

  private async monitored(
    part: readonly ItemToWatch[],
    samplingInterval: number,
  ): Promise<readonly ClientMonitoredItemBase[]> {
    const group = ClientMonitoredItemGroup.create(
      this.subscription,
      part.map(({ nodeId }) => ({ nodeId, attributeId: AttributeIds.Value })),
      { samplingInterval, queueSize, discardOldest: true },
      TimestampsToReturn.Both,
    );
    group.on('changed', (_: ClientMonitoredItemBase, value: DataValue, index: number) => {
      const item = part[index];
      if (item) this.hearer.changed(item.key, readValue(value), value.statusCode.hasOverflowBit);
    });
    await new Promise<void>((resolve, reject) => {
      group.once('initialized', () => resolve());
      group.once('err', (message: string) => reject(new Error(message)));
    });
    return group.monitoredItems;
  }
}

function isNodeId(text: string): boolean {
  try {
    resolveNodeId(text);
    return true;
  } catch {
    return false;
  }
}
