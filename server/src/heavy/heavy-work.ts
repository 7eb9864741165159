import { availableParallelism } from 'node:os';
import { Worker } from 'node:worker_threads';
import type { Logger } from 'pino';
import { ProblemError, busy, tookTooLong } from '../http/problems.js';
import type { Jobs, Note, RunMore, Runs } from './jobs.js';
import type { Failed, Told } from './messages.js';

const workers = { quick: 1, slow: Math.max(1, Math.min(2, availableParallelism() - 1)) } as const;
type Lane = keyof typeof workers;
const mostWaiting = 60;
const longestMs = 120_000;
const megabytes = 1024;

interface Job {
  readonly name: string;
  readonly lane: Lane;
  readonly input: unknown;
  /** The same question, asked again while it waits, gets the same answer. */
  readonly key: string | null;
  readonly result: Promise<unknown>;
  readonly resolve: (result: unknown) => void;
  readonly reject: (error: Error) => void;
  /** How many still wait for it; where nobody does, it is dropped. */
  wanted: number;
  /** Who is told how far it is. */
  readonly noted: Note[];
}

/**
 * Judging, planning and reading large bodies, in threads of their own: the one that serves stays free. A few at once,
 * some more waiting, each for a limited time; what nobody waits for any more is dropped, even in the middle.
 */
export class HeavyWork<All extends Jobs> implements Runs<Jobs> {
  private readonly waiting: Job[] = [];
  private readonly running = new Map<Job, () => void>();
  /** Workers keep to their lane: what one holds in memory serves the next job of the same kind. */
  private readonly idle: Readonly<Record<Lane, Worker[]>> = { quick: [], slow: [] };
  private stopped = false;
  private nextId = 1;

  /**
   * @param program the worker’s own, which knows the jobs
   * @param quick jobs that only read and put together. They have a worker to themselves: a board never waits for somebody’s plan.
   */
  constructor(
    private readonly program: URL,
    private readonly quick: ReadonlySet<keyof All & string>,
    private readonly databaseUrl: string,
    private readonly logger: Logger,
  ) {}

  /** What one capability sees of it: its own jobs. */
  part<Some extends Partial<All> & Jobs>(): Runs<Some> {
    return this as unknown as Runs<Some>;
  }

  async run(name: string, input: unknown, signal?: AbortSignal, more: RunMore = {}): Promise<unknown> {
    const isBegun = more.isBegun ?? signal === undefined;
    const job = this.waitingFor(name, input) ?? this.enqueue(name, input, !isBegun);
    if (more.noted) job.noted.push(more.noted);
    job.wanted += 1;
    const leave = (): void => {
      job.wanted -= 1;
      if (job.wanted === 0) this.drop(job);
    };
    signal?.addEventListener('abort', leave, { once: true });
    if (signal?.aborted) leave();
    this.work();
    try {
      return await job.result;
    } finally {
      signal?.removeEventListener('abort', leave);
    }
  }

  async stop(): Promise<void> {
    this.stopped = true;
    for (const job of [...this.waiting, ...this.running.keys()]) job.reject(busy());
    for (const end of this.running.values()) end();
    await Promise.all([...this.idle.quick.splice(0), ...this.idle.slow.splice(0)].map((worker) => worker.terminate()));
  }

  private waitingFor(name: string, input: unknown): Job | undefined {
    const key = keyOf(name, input);
    return key === null ? undefined : this.waiting.find((job) => job.key === key);
  }

  private enqueue(name: string, input: unknown, mayBeRefused: boolean): Job {
    if (this.stopped || (mayBeRefused && this.waiting.length >= mostWaiting)) throw busy();
    let resolve: Job['resolve'] = () => undefined;
    let reject: Job['reject'] = () => undefined;
    const result = new Promise<unknown>((resolved, rejected) => ([resolve, reject] = [resolved, rejected]));
    result.catch(() => undefined);
    const lane: Lane = this.quick.has(name) ? 'quick' : 'slow';
    const job: Job = { name, lane, input, key: keyOf(name, input), result, resolve, reject, wanted: 0, noted: [] };
    this.waiting.push(job);
    return job;
  }

  private drop(job: Job): void {
    const at = this.waiting.indexOf(job);
    if (at >= 0) this.waiting.splice(at, 1);
    job.reject(busy());
    this.running.get(job)?.();
  }

  private work(): void {
    for (const lane of ['quick', 'slow'] as const)
      for (let job = this.next(lane); job; job = this.next(lane))
        this.carryOut(job, this.idle[lane].pop() ?? this.open());
  }

  /** The job of a lane that is to be carried out next; none while all of its workers are busy. */
  private next(lane: Lane): Job | undefined {
    const busyOnes = [...this.running.keys()].filter((job) => job.lane === lane).length;
    const at = this.stopped || busyOnes >= workers[lane] ? -1 : this.waiting.findIndex((job) => job.lane === lane);
    return at < 0 ? undefined : this.waiting.splice(at, 1)[0];
  }

  private carryOut(job: Job, worker: Worker): void {
    const id = this.nextId++;
    const end = (isUsable: boolean): void => {
      clearTimeout(timer);
      worker.off('message', hear).off('error', fail).off('exit', exit);
      this.running.delete(job);
      if (isUsable && !this.stopped) this.idle[job.lane].push(worker);
      else void worker.terminate();
      this.work();
    };
    const hear = (told: Told): void => {
      if (told.id !== id) return;
      if ('progress' in told) {
        timer.refresh();
        for (const noted of job.noted) noted(told.progress);
        return;
      }
      if (told.ok) job.resolve(told.result);
      else job.reject(errorOf(told));
      end(true);
    };
    const fail = (error: Error): void => {
      this.logger.error({ err: error, job: job.name }, 'a worker failed');
      job.reject(error);
      end(false);
    };
    const exit = (): void => {
      job.reject(new Error('the worker ended'));
      end(false);
    };
    const timer = setTimeout(() => {
      this.logger.error({ job: job.name }, 'a job took too long and was ended');
      job.reject(tookTooLong());
      end(false);
    }, longestMs);
    worker.on('message', hear).on('error', fail).on('exit', exit);
    this.running.set(job, () => end(false));
    worker.postMessage({ id, name: job.name, input: job.input });
  }

  private open(): Worker {
    const worker = new Worker(this.program, {
      workerData: { databaseUrl: this.databaseUrl },
      resourceLimits: { maxOldGenerationSizeMb: megabytes },
    });
    worker.on('error', () => undefined);
    worker.unref();
    return worker;
  }
}

/** Only questions can be answered for several at once; an import is carried out for each who asks. */
const keyOf = (name: string, input: unknown): string | null =>
  name.startsWith('import') || name === 'recognise' ? null : `${name} ${JSON.stringify(input)}`;

function errorOf({ problem, message, codes }: Failed): Error {
  if (problem) return new ProblemError(problem);
  const [code] = codes;
  return Object.assign(new Error(message), code === undefined ? {} : { code });
}
