import { randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { hostname } from 'node:os';
import { and, eq, sql } from 'drizzle-orm';
import type { Logger } from 'pino';
import type { Database } from '../database/database.js';
import { serverProcesses } from '../database/schema.js';

const beatEveryMs = 4000;
/** A process of another computer that was silent for so long is taken for dead; so is a database’s own memory of it. */
const deadAfterSeconds = 75;
/** Without a beat for so long, what this process holds can’t be believed to be its own any more. */
const lostAfterMs = 60_000;

type Row = typeof serverProcesses.$inferSelect;

/**
 * This process among all that serve the same data. Each tells that it lives; one that is found dead is struck off, and
 * its locks with it. What it left in the middle has then a process that is not there, and is cleared away.
 */
export class ServerProcess {
  readonly id = randomUUID();
  private readonly place = { host: hostname(), pid: process.pid, began: beganAt(process.pid) ?? '' };
  private lastBeat = Date.now();
  private lost = new AbortController();
  private timer: NodeJS.Timeout | null = null;
  private readonly clearings: (() => Promise<void>)[] = [];

  constructor(
    private readonly db: Database,
    private readonly logger: Logger,
  ) {}

  /** Aborts when this process can’t be sure any more that it still holds what it holds. */
  get lostHold(): AbortSignal {
    return this.lost.signal;
  }

  /** Clears away what processes that are gone left in the middle: done at the beginning, and again and again. */
  clearingBy(clear: () => Promise<void>): void {
    this.clearings.push(clear);
  }

  /** Makes itself known, and strikes off those that are gone. */
  async join(): Promise<void> {
    await this.enter();
    await this.clear();
    this.timer = setInterval(() => void this.look(), beatEveryMs).unref();
  }

  async leave(): Promise<void> {
    if (this.timer) clearInterval(this.timer);
    await this.db.delete(serverProcesses).where(eq(serverProcesses.id, this.id));
  }

  /** Strikes those off that are gone: at once where they ran on this computer, after a long silence elsewhere. */
  async strikeOffDead(): Promise<void> {
    const silent = sql<boolean>`${serverProcesses.seenAt} < now() - make_interval(secs => ${deadAfterSeconds})
      and pg_postmaster_start_time() < now() - make_interval(secs => ${deadAfterSeconds})`;
    const rows = await this.db.select({ row: serverProcesses, isSilent: silent }).from(serverProcesses);
    for (const { row, isSilent } of rows)
      if (row.id !== this.id && (isSilent || this.isGoneHere(row))) await this.strikeOff(row);
  }

  private async look(): Promise<void> {
    try {
      await this.beat();
      await this.clear();
    } catch (error) {
      this.logger.warn({ reason: String(error) }, 'this process could not tell that it lives');
      if (Date.now() - this.lastBeat > lostAfterMs) this.loseHold('the database was away for too long.');
    }
  }

  private async clear(): Promise<void> {
    await this.strikeOffDead();
    for (const clearing of this.clearings) await clearing();
  }

  private async enter(): Promise<void> {
    await this.db.insert(serverProcesses).values({ id: this.id, ...this.place });
    this.lastBeat = Date.now();
  }

  private async beat(): Promise<void> {
    const known = await this.db
      .update(serverProcesses)
      .set({ seenAt: sql`now()` })
      .where(eq(serverProcesses.id, this.id))
      .returning({ id: serverProcesses.id });
    if (known.length === 0) {
      this.loseHold('another process took this one for dead.');
      await this.enter();
    }
    this.lastBeat = Date.now();
  }

  private loseHold(why: string): void {
    this.lost.abort(new Error(why));
    this.lost = new AbortController();
  }

  private isGoneHere({ host, pid, began }: Row): boolean {
    return host === this.place.host && beganAt(pid) !== began;
  }

  private async strikeOff({ id, seenAt }: Row): Promise<void> {
    const struck = await this.db
      .delete(serverProcesses)
      .where(and(eq(serverProcesses.id, id), eq(serverProcesses.seenAt, seenAt)))
      .returning({ id: serverProcesses.id });
    if (struck.length > 0) this.logger.warn({ server: id }, 'another server process is gone; its locks fell with it');
  }
}

/** When a process of this computer began: which start of the computer, and how many ticks after it; null: there is none. */
function beganAt(pid: number): string | null {
  try {
    const boot = readFileSync('/proc/sys/kernel/random/boot_id', 'utf8').trim();
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
    return `${boot} ${stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19] ?? ''}`;
  } catch {
    return null;
  }
}
