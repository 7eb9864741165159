import type { BenchEvent, BenchEvents, BenchHeard, BenchValue, BenchWatching } from '@loyal-hinge/contract';
import type { SessionState } from './live-session.js';

const mostEvents = 200;

/** Who hears of events. */
export interface EventHearer {
  event(event: BenchEvent): void;
  /** How listening stands, in words. */
  says(words: string): void;
  turn(state: SessionState): void;
}

/** Who hears of it. */
export interface WatchHearer {
  value(value: BenchValue): void;
  /** How often the server samples and publishes what is watched from now on. */
  watching(items: readonly BenchWatching[]): void;
  turn(state: SessionState): void;
}

/** Events that are heard until they are sent on; of a flood the newest. */
export class HeardEvents implements EventHearer {
  private events: BenchEvent[] = [];
  private words: string | null = null;

  event = (event: BenchEvent): void => void (this.events = [...this.events.slice(1 - mostEvents), event]);
  says = (words: string): void => void (this.words = words);
  turn = ({ isLost, says }: SessionState): void => {
    if (isLost) this.words = `The session is lost. ${says}`.trim();
  };

  get isEmpty(): boolean {
    return this.events.length === 0 && this.words === null;
  }

  take(): BenchEvents {
    const heard = { events: this.events, says: this.words };
    this.events = [];
    this.words = null;
    return heard;
  }
}

/** What is heard until it is sent on: the newest of each node alone. */
export class Heard implements WatchHearer {
  private readonly values = new Map<string, BenchValue>();
  private readonly intervals = new Map<string, BenchWatching>();
  private session: SessionState | null = null;

  value = (value: BenchValue): void => void this.values.set(value.nodeId, value);
  watching = (items: readonly BenchWatching[]): void => {
    for (const item of items) this.intervals.set(item.nodeId, item);
  };
  turn = (state: SessionState): void => void (this.session = state);

  get isEmpty(): boolean {
    return this.values.size + this.intervals.size === 0 && this.session === null;
  }

  take(): BenchHeard {
    const heard = { values: [...this.values.values()], watching: [...this.intervals.values()], session: this.session };
    this.values.clear();
    this.intervals.clear();
    this.session = null;
    return heard;
  }
}
