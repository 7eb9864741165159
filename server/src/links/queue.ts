import PgBoss from 'pg-boss';
import type { Logger } from 'pino';
import { oneAtATime } from '../database/database.js';

const queueName = 'checks';
const workers = 8;
const expireInMinutes = 10;

/** A check whose machine is busy is looked at again after so long. */
const busyMs = 400;

const jobOf = (checkId: string) => ({
  name: queueName,
  data: { checkId },
  retryLimit: 0,
  expireInSeconds: expireInMinutes * 60,
});

/** The queue of checks, in PostgreSQL: what was accepted survives the server. */
export class CheckQueue {
  private readonly boss: PgBoss;
  private broken = false;

  constructor(
    private readonly databaseUrl: string,
    logger: Logger,
  ) {
    this.boss = new PgBoss({ connectionString: databaseUrl, max: 6 });
    this.boss.on('error', (error) => {
      this.broken = true;
      logger.warn({ reason: error.message }, 'the queue met an error');
    });
  }

  /** Puts checks into the queue from now on. */
  async start(): Promise<void> {
    await oneAtATime(this.databaseUrl, async () => {
      await this.boss.start();
      await this.boss.createQueue(queueName);
    });
  }

  /** Takes checks out of the queue, too. One whose machine is busy goes back into it: another one is taken meanwhile. */
  async work(run: (checkId: string) => Promise<'over' | 'machine is busy'>): Promise<void> {
    for (let worker = 0; worker < workers; worker += 1) {
      await this.boss.work<{ checkId: string }>(
        queueName,
        { batchSize: 1, pollingIntervalSeconds: 0.5 },
        async (jobs) => {
          for (const { data } of jobs)
            if ((await run(data.checkId)) === 'machine is busy') await this.addLater(data.checkId);
        },
      );
    }
  }

  /** Takes no more checks out of the queue. */
  async rest(): Promise<void> {
    await this.boss.offWork(queueName);
  }

  /** Puts checks into the queue; a check whose job is lost would wait for ever, so this is called in their transaction’s wake. */
  async add(checkIds: readonly string[]): Promise<void> {
    if (checkIds.length === 0) return;
    await this.boss.insert(checkIds.map(jobOf));
  }

  private async addLater(checkId: string): Promise<void> {
    await this.boss.insert([{ ...jobOf(checkId), startAfter: new Date(Date.now() + busyMs) }]);
  }

  async isUp(): Promise<boolean> {
    try {
      await this.boss.getQueueSize(queueName);
      this.broken = false;
    } catch {
      this.broken = true;
    }
    return !this.broken;
  }

  async stop(): Promise<void> {
    await this.boss.stop({ graceful: true, wait: true, timeout: 5000 }).catch(() => undefined);
  }
}
