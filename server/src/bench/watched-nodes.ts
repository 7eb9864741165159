import type { BenchChange, BenchWatchWish, BenchWatching } from '@loyal-hinge/contract';
import type { ReadValue } from '../ua/read-value.js';
import { changeOf } from './answers.js';
import type { WatchHearer } from './heard.js';
import type { LiveSession } from './live-session.js';
import type { BenchItem, BenchSession, BenchSubscription } from './sessions/bench-session.js';

/** Where more are let go at once, all others are begun anew. */
const mostLetGo = 50;

/** What is known of a node that is watched. */
interface Slot {
  readonly slot: number;
  readonly nodeId: string;
  watching: BenchWatching | null;
  newest: BenchChange | null;
}

/** What of a bench is watched: in the session that is there, and in each that takes its place. */
export class WatchedNodes {
  private everyMs = 0;
  private readonly byNode = new Map<string, Slot>();
  private readonly bySlot = new Map<number, Slot>();
  private readonly hearers = new Set<WatchHearer>();
  private subscription: BenchSubscription | null = null;
  private begunIn: BenchSession | null = null;
  private nextSlot = 0;
  /** One thing after the other. */
  private turn: Promise<unknown> = Promise.resolve();

  /** @param used called whenever something is heard */
  constructor(
    private readonly live: Pick<LiveSession, 'session' | 'inEach' | 'state'>,
    private readonly used: () => void,
  ) {}

  get isWatching(): boolean {
    return this.bySlot.size > 0;
  }

  /** Goes on for as long as the session is held. */
  async begin(): Promise<void> {
    await this.live.inEach(
      async (session) => {
        await this.inTurn(() => this.beginIn(session));
        return () => undefined;
      },
      (state) => {
        this.used();
        for (const hearer of this.hearers) hearer.turn(state);
      },
    );
  }

  /** Watches these nodes from now on, and no others. */
  watch({ nodeIds, everyMs }: BenchWatchWish): Promise<void> {
    return this.inTurn(async () => {
      const wanted = new Set(nodeIds);
      const gone = [...this.byNode.values()].filter(({ nodeId }) => !wanted.has(nodeId));
      const fresh = nodeIds.filter((nodeId) => !this.byNode.has(nodeId)).map((nodeId) => this.slotFor(nodeId));
      for (const { nodeId, slot } of gone) {
        this.byNode.delete(nodeId);
        this.bySlot.delete(slot);
      }
      const { session } = this.live;
      const isOfSession = this.subscription !== null && session === this.begunIn;
      const goesOn = isOfSession && everyMs === this.everyMs && gone.length <= mostLetGo;
      this.everyMs = everyMs;
      // Told before the first of their changes can come.
      for (const hearer of this.hearers) hearer.slots(fresh);
      if (!session) return;
      if (!goesOn) return this.beginIn(session);
      await this.subscription?.remove(gone.map(({ slot }) => slot));
      await this.add(fresh);
    });
  }

  /** Tells what is there, and all that comes, until the returned function is called. */
  hear(hearer: WatchHearer): () => void {
    hearer.turn(this.live.state);
    const slots = [...this.bySlot.values()];
    hearer.slots(slots);
    hearer.watching(slots.flatMap(({ watching }) => watching ?? []));
    for (const { newest } of slots) if (newest) hearer.change(newest, false);
    this.hearers.add(hearer);
    return () => this.hearers.delete(hearer);
  }

  private async beginIn(session: BenchSession): Promise<void> {
    const ended = this.subscription?.end();
    this.subscription = null;
    // Where the session is another one, what was begun in the one before ended with it, and nobody answers there.
    if (session === this.begunIn) await ended;
    this.begunIn = session;
    if (this.bySlot.size === 0) return;
    this.subscription = await session.subscribe(this.everyMs, {
      changed: (slot, value, isOverflown) => this.changed(slot, value, isOverflown),
      revised: (items) => this.tell(items),
    });
    await this.add([...this.bySlot.values()]);
  }

  private async add(slots: readonly Slot[]): Promise<void> {
    if (slots.length === 0) return;
    const wished = slots.map(({ slot, nodeId }) => ({ key: slot, nodeId }));
    this.tell((await this.subscription?.add(wished, this.everyMs)) ?? []);
  }

  private tell(items: readonly BenchItem[]): void {
    const watching = items.flatMap((item) => {
      const slot = this.bySlot.get(item.key);
      if (!slot) return [];
      const { revisedSamplingIntervalMs, revisedPublishingIntervalMs, isTold } = item;
      slot.watching = { slot: item.key, revisedSamplingIntervalMs, revisedPublishingIntervalMs, isTold };
      return [slot.watching];
    });
    for (const hearer of this.hearers) hearer.watching(watching);
    for (const { key, code } of items) if (code !== 'Good') this.change([key, null, null, null, code], false);
  }

  private changed(slot: number, value: ReadValue, isOverflown: boolean): void {
    this.used();
    this.change(changeOf(slot, value), isOverflown);
  }

  private change(change: BenchChange, isOverflown: boolean): void {
    const slot = this.bySlot.get(change[0]);
    if (!slot) return;
    slot.newest = change;
    for (const hearer of this.hearers) hearer.change(change, isOverflown);
  }

  private slotFor(nodeId: string): Slot {
    const slot = { slot: this.nextSlot, nodeId, watching: null, newest: null };
    this.nextSlot += 1;
    this.byNode.set(nodeId, slot);
    this.bySlot.set(slot.slot, slot);
    return slot;
  }

  private inTurn(work: () => Promise<void>): Promise<void> {
    const done = this.turn.then(work);
    this.turn = done.catch(() => undefined);
    return done;
  }
}
