import { whenAborted } from '../processes/when-aborted.js';
import { untilLost, usualPingMs } from '../ua/until-lost.js';
import type { BenchSession } from './sessions/bench-session.js';

/** Whether a session is there, since when, and why not. */
export interface SessionState {
  readonly isLost: boolean;
  readonly at: string;
  /** Why it was lost, or could not be opened again; empty while it is there. */
  readonly says: string;
}

/**
 * Opens a session and hands it over for as long as it is used.
 * @returns why it was not opened, in words; null: it was
 */
export type OpenSession = (use: (session: BenchSession) => Promise<void>) => Promise<string | null>;

export interface LiveTimes {
  readonly pingMs: number;
  /** Before the first try to open it again, doubled each time up to the longest. */
  readonly firstWaitMs: number;
  readonly longestWaitMs: number;
  /** A session that is away for longer is given up. */
  readonly patienceMs: number;
}
export const usualTimes: LiveTimes = {
  pingMs: usualPingMs,
  firstWaitMs: 1000,
  longestWaitMs: 15_000,
  patienceMs: 60 * 60_000,
};

/** A session that is opened again where it is lost, until it is ended. */
export class LiveSession {
  private current: BenchSession | null = null;
  /** Of the session that is there. */
  private over = new AbortController();
  private known: SessionState = { isLost: true, at: new Date().toISOString(), says: '' };
  private readonly hearers = new Set<(state: SessionState) => void>();
  private firstDone: (opened: string | null) => void = () => undefined;
  /** Why the first session was not opened; null: it was. */
  readonly first = new Promise<string | null>((resolve) => (this.firstDone = resolve));

  constructor(
    private readonly signal: AbortSignal,
    private readonly times: LiveTimes = usualTimes,
  ) {}

  get session(): BenchSession | null {
    return this.current;
  }

  get state(): SessionState {
    return this.known;
  }

  /** Aborts when the session that is there now ends. */
  get ended(): AbortSignal {
    return AbortSignal.any([this.over.signal, this.signal]);
  }

  /** Called whenever the session is lost or there again, until the returned function is called. */
  onTurn(hear: (state: SessionState) => void): () => void {
    this.hearers.add(hear);
    return () => this.hearers.delete(hear);
  }

  /**
   * Begins something in the session that is there, and in each that takes its place, until the returned function is called.
   * @param turn is told how the session stands, now and whenever that changes
   */
  async inEach(
    beginIn: (session: BenchSession) => Promise<() => void>,
    turn: (state: SessionState) => void,
  ): Promise<() => void> {
    let begunIn: BenchSession | null = null;
    let isOver = false;
    const stops: (() => void)[] = [];
    const begin = async (): Promise<void> => {
      const session = this.current;
      if (!session || session === begunIn) return;
      begunIn = session;
      const stop = await beginIn(session);
      if (isOver) stop();
      else stops.push(stop);
    };
    // Heard before it is begun: a session that is replaced meanwhile is not missed.
    const hearNoTurns = this.onTurn((state) => {
      turn(state);
      if (!state.isLost) void begin().catch(() => undefined);
    });
    try {
      await begin();
    } catch (error) {
      hearNoTurns();
      throw error;
    }
    turn(this.known);
    return () => {
      isOver = true;
      hearNoTurns();
      for (const stop of stops.splice(0)) stop();
    };
  }

  /** Holds the session until it is ended or given up; where the first one can’t be opened, there is no other. */
  async hold(open: OpenSession): Promise<void> {
    let lostAt: number | null = null;
    for (let tries = 0; !this.signal.aborted; tries += 1) {
      let wasOpened = false;
      const why = await open(async (session) => {
        wasOpened = true;
        this.begin(session);
        await untilLost(session, this.signal, this.times.pingMs);
        this.lose('');
      }).catch((error: unknown) => (error instanceof Error ? error.message : 'It could not be opened.'));
      if (wasOpened) {
        [tries, lostAt] = [-1, Date.now()];
        continue;
      }
      if (lostAt === null) {
        this.firstDone(why ?? 'It could not be opened.');
        return;
      }
      this.lose(why ?? 'It could not be opened.');
      if (Date.now() - lostAt > this.times.patienceMs) return;
      await this.pause(Math.min(this.times.longestWaitMs, this.times.firstWaitMs * 2 ** tries));
    }
  }

  private begin(session: BenchSession): void {
    this.current = session;
    this.over = new AbortController();
    this.known = { isLost: false, at: new Date().toISOString(), says: '' };
    this.firstDone(null);
    this.tell();
  }

  private lose(says: string): void {
    const wasThere = this.current !== null;
    this.current = null;
    this.over.abort();
    this.known = { isLost: true, at: wasThere ? new Date().toISOString() : this.known.at, says };
    if (!this.signal.aborted) this.tell();
  }

  private tell(): void {
    for (const hear of this.hearers) hear(this.known);
  }

  private async pause(ms: number): Promise<void> {
    let timer: NodeJS.Timeout | undefined;
    const over = new Promise<void>((resolve) => (timer = setTimeout(resolve, ms)));
    await Promise.race([over, whenAborted(this.signal)]);
    clearTimeout(timer);
  }
}
