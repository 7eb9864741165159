import { sayCode } from '@loyal-hinge/core';
import { emptyVariant, hresults } from '@loyal-hinge/classic';
import type { DataAccessGroup, DataChange, HeldServer, ItemValue } from '@loyal-hinge/classic';
import type { ItemToWatch } from '../../ua/subscription.js';
import type { BenchItem, BenchSubscription, WatchedHearer } from './bench-session.js';
import { isOfPeer, told } from './classic-told.js';
import { readClassicValue } from './classic-values.js';

interface Watched extends ItemToWatch {
  readonly serverHandle: number;
  /** What was heard last, for whether it is another; empty: nothing. */
  newest: string;
}

/** A first change is waited for so long, at least, before the server is asked. */
const patienceMs = 2500;
const patiencePeriods = 3;
const mostAtOnce = 1000;

/**
 * A group whose items come and go. The server tells their changes; where it does not come back to us, because the way or
 * its permissions are closed, it is asked at the same rate, and that is said.
 */
export class ClassicSubscription implements BenchSubscription {
  private group: DataAccessGroup | null = null;
  private readonly items = new Map<number, Watched>();
  private isTold = true;
  private wasCalled = false;
  private silence: NodeJS.Timeout | undefined;
  private asking: NodeJS.Timeout | undefined;
  private isAsking = false;
  private isOver = false;
  private unadvise: () => Promise<void> = () => Promise.resolve();

  constructor(
    private readonly held: HeldServer,
    private readonly publishingIntervalMs: number,
    private readonly hearer: WatchedHearer,
  ) {}

  async add(wished: readonly ItemToWatch[], samplingIntervalMs: number): Promise<readonly BenchItem[]> {
    const isFirst = this.group === null;
    const rateMs = Math.min(samplingIntervalMs, this.publishingIntervalMs);
    const group = (this.group ??= await told(() => this.held.server.addGroup('', rateMs, true)));
    const items: BenchItem[] = [];
    for (let from = 0; from < wished.length; from += mostAtOnce)
      items.push(...(await told(() => this.addTogether(group, wished.slice(from, from + mostAtOnce)))));
    if (isFirst) await this.begin(group);
    this.waitForCall(group);
    return items.map((item) => ({ ...item, isTold: this.isTold }));
  }

  async remove(keys: readonly number[]): Promise<void> {
    const gone = keys.flatMap((key) => this.items.get(key) ?? []);
    for (const { key } of gone) this.items.delete(key);
    const handles = gone.map(({ serverHandle }) => serverHandle);
    if (handles.length > 0) await told(async () => this.group?.remove(handles));
  }

  async end(): Promise<void> {
    this.isOver = true;
    clearTimeout(this.silence);
    clearInterval(this.asking);
    await this.unadvise().catch(() => undefined);
    await this.group?.release().catch(() => undefined);
  }

  private async addTogether(group: DataAccessGroup, wished: readonly ItemToWatch[]): Promise<BenchItem[]> {
    const added = await group.add(
      wished.map(({ key, nodeId }) => ({ itemId: nodeId, clientHandle: key })),
      true,
    );
    return wished.map((wish, index) => {
      const item = added[index];
      if (item?.error === null) this.items.set(wish.key, { ...wish, serverHandle: item.serverHandle, newest: '' });
      return this.itemOf(wish, item?.error === null ? 'Good' : `Bad: ${sayCode(item?.error ?? hresults.fail)}`);
    });
  }

  private itemOf(wish: ItemToWatch, code: string): BenchItem {
    const rateMs = this.group?.revisedUpdateRateMs ?? 0;
    return {
      ...wish,
      code,
      revisedSamplingIntervalMs: rateMs,
      revisedPublishingIntervalMs: rateMs,
      isTold: this.isTold,
    };
  }

  private async begin(group: DataAccessGroup): Promise<void> {
    try {
      this.unadvise = await this.held.watch(group, (change) => this.called(change));
    } catch (error) {
      if (!isOfPeer(error)) throw error;
      this.ask(group);
    }
  }

  /** A call comes soon once there are items whose values can be told; where there are none, nobody waits. */
  private waitForCall(group: DataAccessGroup): void {
    if (this.wasCalled || !this.isTold || this.silence || this.items.size === 0) return;
    const waitMs = Math.max(patienceMs, patiencePeriods * group.revisedUpdateRateMs);
    this.silence = setTimeout(() => this.ask(group), waitMs).unref();
  }

  private called({ clientHandles, values, qualities, timestamps, errors }: DataChange): void {
    this.wasCalled = true;
    clearTimeout(this.silence);
    if (!this.isTold) {
      clearInterval(this.asking);
      this.say(true);
    }
    clientHandles.forEach((key, index) =>
      this.heard(key, {
        value: values[index] ?? emptyVariant,
        quality: qualities[index] ?? 0,
        timestamp: timestamps[index] ?? null,
        error: errors[index] ?? 0,
      }),
    );
  }

  private ask(group: DataAccessGroup): void {
    if (this.isOver) return;
    this.say(false);
    this.asking = setInterval(() => void this.read(group), group.revisedUpdateRateMs).unref();
    void this.read(group);
  }

  /** Reads what there is, unless it is being read still. */
  private async read(group: DataAccessGroup): Promise<void> {
    if (this.isAsking) return;
    this.isAsking = true;
    try {
      const items = [...this.items.values()];
      for (let from = 0; from < items.length && !this.isOver; from += mostAtOnce) {
        const some = items.slice(from, from + mostAtOnce);
        const values = await group.read(
          some.map(({ serverHandle }) => serverHandle),
          'cache',
        );
        some.forEach(({ key }, index) => {
          const value = values[index];
          if (value) this.heardIfNew(key, value);
        });
      }
    } catch {
      // Whether the session is lost shows where its server is asked for its time.
    } finally {
      this.isAsking = false;
    }
  }

  private heardIfNew(key: number, value: ItemValue): void {
    const item = this.items.get(key);
    const read = readClassicValue(value);
    const newest = JSON.stringify([read.code, read.value]);
    if (!item || item.newest === newest) return;
    item.newest = newest;
    this.hearer.changed(key, read, false);
  }

  private heard(key: number, value: ItemValue): void {
    if (this.items.has(key)) this.hearer.changed(key, readClassicValue(value), false);
  }

  private say(isTold: boolean): void {
    this.isTold = isTold;
    this.hearer.revised([...this.items.values()].map((item) => this.itemOf(item, 'Good')));
  }
}
