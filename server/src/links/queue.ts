import PgBoss from 'pg-boss';
import type { Logger } from 'pino';
import { oneAtATime } from '../database/database.js';
import { JobTaker } from './job-taker.js';
import type { JobEnd } from './job-taker.js';
import { checkQueues, checksQueue, probesQueue } from './queue-names.js';

const mostAtOnce = 8;
/** Those that are under way when the server stops may end for so long. */
const patienceMs = 5000;
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
  private readonly takers = new Map<string, JobTaker>();
  private broken = false;

  constructor(
    private readonly databaseUrl: string,
    private readonly logger: Logger,
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
  work(run: (checkId: string) => Promise<Taken>): void {
    this.workOn(checksQueue, run);
  }

  /** Takes checks that probes walk; one of a probe that is gone goes back among all others. */
  workForProbes(run: (checkId: string) => Promise<Taken>): void {
    this.workOn(probesQueue, run);
  }

  private workOn(name: string, run: (checkId: string) => Promise<Taken>): void {
    const { boss } = this;
    const source = {
      take: async (batchSize: number) =>
        (await boss.fetch<{ checkId: string }>(name, { batchSize })).map(({ id, data }) => ({ id, ...data })),
      done: (id: string) => boss.complete(name, id),
      failed: (id: string, why: Error) => boss.fail(name, id, why),
    };
    const carryOut = async (checkId: string): Promise<JobEnd> => this.handOn(checkId, name, await run(checkId));
    const tell = (reason: string): void => this.logger.warn({ reason }, 'a job of the queue failed');
    this.takers.set(name, new JobTaker(source, mostAtOnce, carryOut, tell));
  }

  /** Takes no more checks that probes walk. */
  restFromProbes(): void {
    void this.takers.get(probesQueue)?.stop(0);
    this.takers.delete(probesQueue);
  }

  /** Puts checks into the queue; a check whose job is lost would wait for ever, so this is called in their transaction’s wake. */
  async add(checkIds: readonly string[]): Promise<void> {
    if (checkIds.length === 0) return;
    await this.boss.insert(checkIds.map((checkId) => jobOf(checkId)));
    this.takers.get(checksQueue)?.wake();
  }

  private async handOn(checkId: string, from: string, taken: Taken): Promise<JobEnd> {
    if (taken === 'over') return 'over';
    const name = taken === 'of a probe elsewhere' ? probesQueue : taken === 'of no probe here' ? checksQueue : from;
    await this.boss.insert([{ ...jobOf(checkId, name), startAfter: new Date(Date.now() + busyMs) }]);
    setTimeout(() => this.takers.get(name)?.wake(), busyMs).unref();
    return 'put off';
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
    await Promise.all([...this.takers.values()].map((taker) => taker.stop(patienceMs)));
    await this.boss.stop({ graceful: true, wait: true, timeout: patienceMs }).catch(() => undefined);
  }
}
