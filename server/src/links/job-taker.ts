/** What waits in a queue. */
export interface Job {
  readonly id: string;
  readonly checkId: string;
}

/** A queue whose jobs are taken; one that was taken is neither given again nor forgotten until it is said what came of it. */
export interface JobSource {
  take(most: number): Promise<readonly Job[]>;
  done(id: string): Promise<unknown>;
  failed(id: string, why: Error): Promise<unknown>;
}

const lookEveryMs = 500;

/** Whether a job was carried out, or put into the queue again for later. */
export type JobEnd = 'over' | 'put off';

/**
 * Takes jobs out of a queue, a number of them at once: one look for all that there is room for. It looks as soon as a job is over
 * and whenever it is woken; now and then all the same, for other processes fill the queue, too. A job that was put off wakes
 * nobody: many of those would go round and round.
 */
export class JobTaker {
  private readonly running = new Set<Promise<void>>();
  private readonly looking: Promise<void>;
  private isStopped = false;
  private isWoken = false;
  private goOn: () => void = () => undefined;

  /**
   * @param most jobs at once
   * @param run ends with the job
   * @param tell hears why a job, or the queue itself, failed
   */
  constructor(
    private readonly source: JobSource,
    private readonly most: number,
    private readonly run: (checkId: string) => Promise<JobEnd>,
    private readonly tell: (why: string) => void,
  ) {
    this.looking = this.look();
  }

  /** There may be a job now. */
  wake(): void {
    this.isWoken = true;
    this.goOn();
  }

  /** Takes no more jobs; resolves when those that are under way have ended, or after `patienceMs`. */
  async stop(patienceMs: number): Promise<void> {
    this.isStopped = true;
    this.wake();
    const ended = this.looking.then(() => Promise.all(this.running));
    let timer: NodeJS.Timeout | undefined;
    const tooLong = new Promise((end) => (timer = setTimeout(end, patienceMs)));
    await Promise.race([ended, tooLong]);
    clearTimeout(timer);
  }

  private async look(): Promise<void> {
    while (!this.isStopped) {
      this.isWoken = false;
      const room = this.most - this.running.size;
      const jobs = room > 0 ? await this.taken(room) : [];
      for (const job of jobs) this.begin(job);
      if (jobs.length < room || room === 0) await this.pause();
    }
  }

  private async taken(most: number): Promise<readonly Job[]> {
    try {
      return await this.source.take(most);
    } catch (error) {
      this.tell(String(error));
      return [];
    }
  }

  private begin(job: Job): void {
    const ended = this.carryOut(job).then((end) => {
      this.running.delete(ended);
      if (end === 'over') this.wake();
    });
    this.running.add(ended);
  }

  private async carryOut({ id, checkId }: Job): Promise<JobEnd> {
    try {
      const end = await this.run(checkId).catch((error: unknown) =>
        error instanceof Error ? error : new Error(String(error)),
      );
      if (typeof end === 'string') await this.source.done(id);
      else await this.source.failed(id, end);
      return end === 'put off' ? end : 'over';
    } catch (error) {
      this.tell(String(error));
      return 'over';
    }
  }

  private pause(): Promise<void> {
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, lookEveryMs);
      this.goOn = () => {
        clearTimeout(timer);
        resolve();
      };
      if (this.isWoken || this.isStopped) this.goOn();
    });
  }
}
