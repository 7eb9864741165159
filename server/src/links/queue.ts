import PgBoss from 'pg-boss';
import type { Logger } from 'pino';
import { oneAtATime } from '../database/database.js';
import { checkQueues, checksQueue, probesQueue } from './queue-names.js';

const workers = 8;
const expireInMinutes = 10;

/** A check whose machine is busy is looked at again after so long. */
const busyMs = 400;

/** What came of a job: whether somebody else has to take it. */
export type Taken = 'over' | 'machine is busy' | 'of a probe elsewhere' | 'of no probe here';

const jobOf = (checkId: string, name: string = checksQueue) => ({
  name,
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
      for (const name of checkQueues) await this.boss.createQueue(name);
    });
  }

  /** Takes checks out of the queue, too. One whose machine is busy goes back into it: another one is taken meanwhile. */
  work(run: (checkId: string) => Promise<Taken>): Promise<void> {
    return this.workOn(checksQueue, run);
  }

  /** Takes checks that probes walk; one of a probe that is gone goes back among all others. */
  workForProbes(run: (checkId: string) => Promise<Taken>): Promise<void> {
    return this.workOn(probesQueue, run);
  }

  private async workOn(name: string, run: (checkId: string) => Promise<Taken>): Promise<void> {
    for (let worker = 0; worker < workers; worker += 1) {
      await this.boss.work<{ checkId: string }>(name, { batchSize: 1, pollingIntervalSeconds: 0.5 }, async (jobs) => {
        for (const { data } of jobs) await this.handOn(data.checkId, name, await run(data.checkId));
      });
    }
  }

  /** Takes no more checks that probes walk. */
  async restFromProbes(): Promise<void> {
    await this.boss.offWork(probesQueue);
  }

  /** Puts checks into the queue; a check whose job is lost would wait for ever, so this is called in their transaction’s wake. */
  async add(checkIds: readonly string[]): Promise<void> {
    if (checkIds.length === 0) return;
    await this.boss.insert(checkIds.map((checkId) => jobOf(checkId)));
  }

  private async handOn(checkId: string, from: string, taken: Taken): Promise<void> {
    if (taken === 'over') return;
    const name = taken === 'of a probe elsewhere' ? probesQueue : taken === 'of no probe here' ? checksQueue : from;
    await this.boss.insert([{ ...jobOf(checkId, name), startAfter: new Date(Date.now() + busyMs) }]);
  }

  async isUp(): Promise<boolean> {
    try {
      await this.boss.getQueueSize(checksQueue);
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
