import { JobTaker } from './job-taker';
import type { Job, JobEnd, JobSource } from './job-taker';

/** A queue in memory that remembers what became of its jobs. */
class Queue implements JobSource {
  readonly waiting: Job[] = [];
  readonly wanted: number[] = [];
  readonly ends: string[] = [];
  breaks = 0;

  constructor(...ids: string[]) {
    this.add(...ids);
  }
  add(...ids: string[]): void {
    this.waiting.push(...ids.map((id) => ({ id, checkId: `check ${id}` })));
  }
  take(most: number): Promise<readonly Job[]> {
    this.wanted.push(most);
    if (this.breaks-- > 0) return Promise.reject(new Error('the database is away'));
    return Promise.resolve(this.waiting.splice(0, most));
  }
  done(id: string): Promise<void> {
    this.ends.push(`${id} done`);
    return Promise.resolve();
  }
  failed(id: string, why: Error): Promise<void> {
    this.ends.push(`${id} failed: ${why.message}`);
    return Promise.resolve();
  }
}

/** Work that ends when it is told to. */
class Work {
  readonly begun: string[] = [];
  private readonly ends = new Map<string, (end: JobEnd | Error) => void>();

  readonly run = (checkId: string): Promise<JobEnd> => {
    this.begun.push(checkId);
    return new Promise((resolve, reject) =>
      this.ends.set(checkId, (end) => (end instanceof Error ? reject(end) : resolve(end))),
    );
  };
  end(checkId: string, end: JobEnd | Error = 'over'): void {
    this.ends.get(checkId)?.(end);
  }
}

const turn = (): Promise<void> => new Promise((resolve) => setImmediate(resolve));
const turns = async (): Promise<void> => {
  for (let count = 0; count < 5; count += 1) await turn();
};

function taking(queue: Queue, most = 2) {
  const work = new Work();
  const told: string[] = [];
  return { work, told, taker: new JobTaker(queue, most, work.run, (why) => told.push(why)) };
}

describe('jobs of a queue', () => {
  it('are taken as long as there is room, and the next one as soon as one has ended', async () => {
    const queue = new Queue('a', 'b', 'c');
    const { work, taker } = taking(queue);
    await turns();
    expect(work.begun).toEqual(['check a', 'check b']);
    work.end('check a');
    await turns();
    expect(work.begun).toEqual(['check a', 'check b', 'check c']);
    expect(queue.ends).toEqual(['a done']);
    expect(queue.wanted).toEqual([2, 1]);
    work.end('check b');
    work.end('check c');
    await taker.stop(1000);
    expect(queue.ends.sort()).toEqual(['a done', 'b done', 'c done']);
  });

  it('are taken at once when somebody says that there are some, also while it is looking', async () => {
    const queue = new Queue();
    const { work, taker } = taking(queue);
    queue.add('late');
    taker.wake();
    await turns();
    expect(work.begun).toEqual(['check late']);
    queue.add('later');
    taker.wake();
    await turns();
    expect(work.begun).toEqual(['check late', 'check later']);
    work.end('check late');
    work.end('check later');
    await taker.stop(1000);
  });

  it('fail with their reason, and the rest goes on', async () => {
    const queue = new Queue('a', 'b');
    const { work, taker } = taking(queue, 1);
    await turns();
    work.end('check a', new Error('no such link'));
    await turns();
    expect(queue.ends).toEqual(['a failed: no such link']);
    expect(work.begun).toEqual(['check a', 'check b']);
    work.end('check b');
    await taker.stop(1000);
  });

  it('make room and wake nobody where they are put off', async () => {
    const queue = new Queue('a', 'b', 'c');
    const { work, taker } = taking(queue);
    await turns();
    work.end('check a', 'put off');
    await turns();
    expect(queue.ends).toEqual(['a done']);
    expect(work.begun).toEqual(['check a', 'check b']);
    taker.wake();
    await turns();
    expect(work.begun).toEqual(['check a', 'check b', 'check c']);
    work.end('check b');
    work.end('check c');
    await taker.stop(1000);
  });

  it('are looked for again where the queue is away for a while', async () => {
    const queue = new Queue('a');
    queue.breaks = 1;
    const { work, told, taker } = taking(queue);
    await turns();
    expect([told, work.begun]).toEqual([['Error: the database is away'], []]);
    taker.wake();
    await turns();
    expect(work.begun).toEqual(['check a']);
    work.end('check a');
    await taker.stop(1000);
  });

  it('are taken no more once it is stopped, and those under way end first', async () => {
    const queue = new Queue('a');
    const { work, taker } = taking(queue);
    await turns();
    let isStopped = false;
    const stopped = taker.stop(60_000).then(() => (isStopped = true));
    queue.add('b');
    await turns();
    expect(isStopped).toBe(false);
    work.end('check a');
    await stopped;
    expect(work.begun).toEqual(['check a']);
    expect(queue.ends).toEqual(['a done']);
  });

  it('keep no stop waiting where the queue does not answer', async () => {
    const queue = new Queue();
    queue.take = () => new Promise(() => undefined);
    await taking(queue).taker.stop(5);
    expect(queue.ends).toEqual([]);
  });

  it('are left alone by a stop that waits no longer', async () => {
    const { work, taker } = taking(new Queue('a'));
    await turns();
    await taker.stop(5);
    expect(work.begun).toEqual(['check a']);
    work.end('check a');
  });
});
