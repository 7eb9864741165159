import type {
  BenchChange,
  BenchEvent,
  BenchEvents,
  BenchHeard,
  BenchMessage,
  BenchSlot,
  BenchWatching,
} from '@loyal-hinge/contract';
import { Newest } from '../processes/newest.js';
import type { SessionState } from './live-session.js';

const mostEvents = 200;

/** Who hears of events. */
export interface EventHearer {
  event(event: BenchEvent): void;
  /** How listening stands, in words. */
  says(words: string): void;
  turn(state: SessionState): void;
}

/** Who hears of what is watched. */
export interface WatchHearer {
  /** Nodes whose changes may come from now on. */
  slots(slots: readonly BenchSlot[]): void;
  /** How often the server samples and publishes what is watched from now on. */
  watching(items: readonly BenchWatching[]): void;
  /** @param isOverflown values before it were lost at the server */
  change(change: BenchChange, isOverflown: boolean): void;
  turn(state: SessionState): void;
}

/** Events that are heard until they are sent on; of a flood the newest. */
export class HeardEvents implements EventHearer {
  private readonly events = new Newest<BenchEvent>(mostEvents);
  private words: string | null = null;

  event = (event: BenchEvent): void => this.events.push(event);
  says = (words: string): void => void (this.words = words);
  turn = ({ isLost, says }: SessionState): void => {
    if (isLost) this.words = `The session is lost. ${says}`.trim();
  };

  get isEmpty(): boolean {
    return this.events.isEmpty && this.words === null;
  }

  take(): BenchEvents {
    const { items, skipped } = this.events.take();
    const says = this.words;
    this.words = null;
    return { events: [...items], skipped, says };
  }
}

/** So many changes wait for a page that takes nothing in: ten seconds of a large list. */
const mostWaiting = 50_000;

/** What is heard of a session until it is sent on: each change, unless too many wait. */
export class Heard implements WatchHearer {
  private readonly known = new Map<number, BenchSlot>();
  private readonly intervals = new Map<number, BenchWatching>();
  private changes: BenchChange[] = [];
  private session: SessionState | null = null;
  private came = 0;
  private thinned = 0;
  private overflown = 0;

  constructor(private readonly benchId: string) {}

  slots = (slots: readonly BenchSlot[]): void => {
    for (const { slot, nodeId } of slots) this.known.set(slot, { slot, nodeId });
  };
  watching = (items: readonly BenchWatching[]): void => {
    for (const item of items) this.intervals.set(item.slot, item);
  };
  change = (change: BenchChange, isOverflown: boolean): void => {
    this.came += 1;
    if (isOverflown) this.overflown += 1;
    this.changes.push(change);
    if (this.changes.length > mostWaiting) this.thin();
  };
  turn = (state: SessionState): void => void (this.session = state);

  get isEmpty(): boolean {
    return this.known.size + this.intervals.size + this.changes.length === 0 && this.session === null;
  }

  take(): BenchHeard {
    const heard = {
      benchId: this.benchId,
      slots: [...this.known.values()],
      watching: [...this.intervals.values()],
      changes: this.changes,
      came: this.came,
      thinned: this.thinned,
      overflown: this.overflown,
      session: this.session,
    };
    this.known.clear();
    this.intervals.clear();
    this.changes = [];
    this.session = null;
    return heard;
  }

  /** Only the newest of each node goes on waiting. */
  private thin(): void {
    const newest = new Map(this.changes.map((change) => [change[0], change]));
    this.thinned += this.changes.length - newest.size;
    this.changes = [...newest.values()];
  }
}

/** What a page hears of all its sessions until it is sent on. */
export class PageHeard {
  private readonly benches = new Map<string, Heard>();
  private ended: string[] = [];
  private unused: string[] = [];
  private isFirst = true;

  /** @returns who hears of a session from now on */
  begin(benchId: string): WatchHearer {
    const heard = new Heard(benchId);
    this.benches.set(benchId, heard);
    return heard;
  }

  /** @param isUnused it was closed since nobody used it */
  end(benchId: string, isUnused: boolean): void {
    if (this.benches.delete(benchId)) (isUnused ? this.unused : this.ended).push(benchId);
  }

  get isEmpty(): boolean {
    return (
      !this.isFirst &&
      this.ended.length + this.unused.length === 0 &&
      [...this.benches.values()].every(({ isEmpty }) => isEmpty)
    );
  }

  take(): BenchMessage {
    const full = [...this.benches.values()].filter(({ isEmpty }) => !isEmpty);
    const message = {
      here: this.isFirst ? [...this.benches.keys()] : null,
      ended: this.ended,
      unused: this.unused,
      heard: full.map((heard) => heard.take()),
    };
    this.isFirst = false;
    this.ended = [];
    this.unused = [];
    return message;
  }
}
