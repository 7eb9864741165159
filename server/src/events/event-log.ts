import { asc, desc, gt, sql } from 'drizzle-orm';
import type { Logger } from 'pino';
import type { HingeEvent } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { events } from '../database/schema.js';
import { Turns } from '../processes/turns.js';
import { tellEvent } from './tell-event.js';
import type { Notices } from './notices.js';

export interface NumberedEvent {
  readonly id: number;
  /** As it goes to readers: made once, shared by all of them. */
  readonly written: Buffer;
}

/** So much of what was read last is shared by all readers that are a little behind. */
const mostRecent = 1000;
/** Readers that are further behind read for themselves, so many at once: two hundred pages would fill the memory. */
const pagesAtOnce = 4;
const keptMs = 24 * 3_600_000;
const pageSize = 200;
/** Notices may be missed; this look misses nothing. */
const lookEveryMs = 5000;
const pruneEveryMs = 10 * 60_000;

/**
 * What browsers are told. Events are written down one after the other (`tell_event`), so that their numbers are their
 * order; every process reads them from there, and hands them to whoever listens, each once.
 */
export class EventLog {
  private readonly hearers = new Set<(events: readonly NumberedEvent[]) => void>();
  private readUpTo = 0;
  /** All events after `recentAfter` and up to `readUpTo`. */
  private recent: NumberedEvent[] = [];
  private recentAfter = 0;
  private readonly turns = new Turns();
  private turn = 0;
  private reading: Promise<void> | null = null;
  private again = false;
  private readonly timers: NodeJS.Timeout[] = [];

  constructor(
    private readonly db: Database,
    private readonly notices: Notices,
    private readonly logger: Logger,
  ) {}

  async start(): Promise<void> {
    this.readUpTo = this.recentAfter = await this.newestId();
    this.notices.hear(({ kind }) => {
      if (kind === 'event') this.look();
    });
    this.notices.whenConnected(() => this.look());
    this.timers.push(
      setInterval(() => this.look(), lookEveryMs).unref(),
      setInterval(() => void this.forgetOld().catch(() => undefined), pruneEveryMs).unref(),
    );
  }

  stop(): void {
    for (const timer of this.timers) clearInterval(timer);
  }

  async tell(body: HingeEvent): Promise<void> {
    await tellEvent(this.db, body);
  }

  /** Events after a number, oldest first; a full page may be followed by another. */
  async after(id: number): Promise<readonly NumberedEvent[]> {
    if (id < this.recentAfter) return this.turns.take(`${(this.turn += 1) % pagesAtOnce}`, () => this.pageAfter(id));
    const from = this.recent.findIndex((event) => event.id > id);
    return from < 0 ? [] : this.recent.slice(from, from + pageSize);
  }

  private async pageAfter(after: number): Promise<readonly NumberedEvent[]> {
    const rows = await this.db
      .select({ id: events.id, body: events.body })
      .from(events)
      .where(gt(events.id, after))
      .orderBy(asc(events.id))
      .limit(pageSize);
    return rows.map(({ id, body }) => ({ id, written: Buffer.from(`id: ${id}\ndata: ${JSON.stringify(body)}\n\n`) }));
  }

  async newestId(): Promise<number> {
    const [row] = await this.db.select({ id: events.id }).from(events).orderBy(desc(events.id)).limit(1);
    return row?.id ?? 0;
  }

  /** Whether everything after a number is still kept; a number that was never given is from other data. */
  async reachesBackTo(id: number): Promise<boolean> {
    const [oldest] = await this.db.select({ id: events.id }).from(events).orderBy(asc(events.id)).limit(1);
    return id <= (await this.newestId()) && (oldest === undefined || id >= oldest.id - 1);
  }

  /** Hands over what is told from now on, in order. */
  listen(hear: (events: readonly NumberedEvent[]) => void): () => void {
    this.hearers.add(hear);
    return () => void this.hearers.delete(hear);
  }

  async forgetOld(): Promise<void> {
    await this.db.execute(sql`select forget_events(${new Date(Date.now() - keptMs).toISOString()})`);
  }

  /** Reads what is new; asked again while it reads, it reads again afterwards. */
  private look(): void {
    this.again = true;
    this.reading ??= this.readNew().finally(() => (this.reading = null));
  }

  private remember(page: readonly NumberedEvent[]): void {
    this.recent.push(...page);
    const forgotten = this.recent.splice(0, Math.max(0, this.recent.length - mostRecent));
    this.recentAfter = forgotten.at(-1)?.id ?? this.recentAfter;
  }

  private async readNew(): Promise<void> {
    try {
      while (this.again) {
        this.again = false;
        const page = await this.pageAfter(this.readUpTo);
        const last = page.at(-1);
        if (!last) continue;
        this.readUpTo = last.id;
        this.remember(page);
        this.again ||= page.length === pageSize;
        for (const hear of this.hearers) hear(page);
      }
    } catch (error) {
      this.logger.warn({ reason: String(error) }, 'events could not be read; they will be');
    }
  }
}
