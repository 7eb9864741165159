import { EventEmitter } from 'node:events';
import { asc, desc, gt, lt } from 'drizzle-orm';
import type { HingeEvent } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { events } from '../database/schema.js';

export interface NumberedEvent {
  readonly id: number;
  readonly body: HingeEvent;
}

const keptMs = 24 * 3_600_000;

/** What browsers are told: written down first, then handed to whoever listens, so that a stream can be taken up again. */
export class EventLog {
  private readonly emitter = new EventEmitter().setMaxListeners(1000);

  constructor(private readonly db: Database) {}

  async tell(body: HingeEvent): Promise<void> {
    const [row] = await this.db.insert(events).values({ body }).returning({ id: events.id });
    if (row) this.emitter.emit('event', { id: row.id, body } satisfies NumberedEvent);
  }

  /** Events after a number, oldest first. */
  async after(id: number): Promise<readonly NumberedEvent[]> {
    return this.db
      .select({ id: events.id, body: events.body })
      .from(events)
      .where(gt(events.id, id))
      .orderBy(asc(events.id))
      .limit(5000);
  }

  async newestId(): Promise<number> {
    const [row] = await this.db.select({ id: events.id }).from(events).orderBy(desc(events.id)).limit(1);
    return row?.id ?? 0;
  }

  listen(hear: (event: NumberedEvent) => void): () => void {
    this.emitter.on('event', hear);
    return () => this.emitter.off('event', hear);
  }

  async forgetOld(): Promise<void> {
    await this.db.delete(events).where(lt(events.at, new Date(Date.now() - keptMs).toISOString()));
  }
}
