import PgBoss from 'pg-boss';
import type { Logger } from 'pino';
import { oneAtATime } from '../database/database.js';

const queueName = 'checks';
const workers = 8;
const expireInMinutes = 10;

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

  async start(run: (checkId: string) => Promise<void>): Promise<void> {
    await oneAtATime(this.databaseUrl, async () => {
      await this.boss.start();
      await this.boss.createQueue(queueName);
    });
    for (let worker = 0; worker < workers; worker += 1) {
      await this.boss.work<{ checkId: string }>(
        queueName,
        { batchSize: 1, pollingIntervalSeconds: 0.5 },
        async (jobs) => {
          for (const { data } of jobs) await run(data.checkId);
        },
      );
    }
  }

  /** Puts checks into the queue; a check whose job is lost would wait for ever, so this is called in their transaction’s wake. */
  async add(checkIds: readonly string[]): Promise<void> {
    if (checkIds.length === 0) return;
    await this.boss.insert(
      checkIds.map((checkId) => ({
        name: queueName,
        data: { checkId },
        retryLimit: 0,
        expireInSeconds: expireInMinutes * 60,
      })),
    );
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
