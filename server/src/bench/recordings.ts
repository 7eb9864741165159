import { randomUUID } from 'node:crypto';
import { mkdir, readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { RecordedRows } from '@loyal-hinge/core';
import type { Recording, RecordingWish } from '@loyal-hinge/contract';
import { conflict, notFound } from '../http/problems.js';
import { RecordingFile } from './recording-file.js';
import type { BenchSession } from './sessions/bench-session.js';

const mostRunning = 20;
const keptMs = 7 * 86_400_000;

/** Whose session is recorded, and until when it lasts. */
interface Recorded {
  readonly owner: string;
  readonly linkName: string;
  /** Aborts when the session ends, and with it the recording. */
  readonly ended: AbortSignal;
}

/** What live sessions record: files beside the database, each for the one who records it, for a week. */
export class Recordings {
  private readonly known = new Map<string, OneRecording>();

  constructor(private readonly folder: string) {}

  async begin(session: Pick<BenchSession, 'subscribe'>, wish: RecordingWish, recorded: Recorded): Promise<Recording> {
    if ([...this.known.values()].filter(({ isRunning }) => isRunning).length >= mostRunning)
      throw conflict('Too many recordings are running.', 'Stop one first.');
    await mkdir(this.folder, { recursive: true, mode: 0o700 });
    await this.forgetOld();
    const id = randomUUID();
    const one = new OneRecording(id, wish, recorded, this.pathOf(id));
    this.known.set(id, one);
    try {
      await one.begin(session);
    } catch (error) {
      // What never began holds no place among those that run, and leaves no file.
      this.known.delete(id);
      await one.end('failed', null);
      await rm(this.pathOf(id), { force: true });
      throw error;
    }
    return one.view;
  }

  /** What somebody has recorded, the newest first. */
  of = (owner: string): Recording[] =>
    [...this.known.values()]
      .filter((one) => one.owner === owner)
      .map(({ view }) => view)
      .reverse();

  stop(id: string, owner: string): Recording {
    const one = this.find(id, owner);
    void one.end('stopped', null);
    return one.view;
  }

  /** The file of a recording, as far as it goes. */
  path(id: string, owner: string): string {
    this.find(id, owner);
    return this.pathOf(id);
  }

  stopAll(): void {
    for (const one of this.known.values()) void one.end('stopped', 'The server was stopped.');
  }

  private find(id: string, owner: string): OneRecording {
    const one = this.known.get(id);
    if (one?.owner !== owner) throw notFound('recording', id);
    return one;
  }

  private pathOf = (id: string): string => join(this.folder, `${id}.csv`);

  /** Files of a week ago go, whoever recorded them. */
  private async forgetOld(): Promise<void> {
    for (const name of await readdir(this.folder).catch(() => [])) {
      const path = join(this.folder, name);
      const at = await stat(path).catch(() => null);
      if (at && Date.now() - at.mtimeMs > keptMs) await rm(path, { force: true }).catch(() => undefined);
    }
    for (const [id, one] of this.known) if (one.isOver(Date.now() - keptMs)) this.known.delete(id);
  }
}

class OneRecording {
  private readonly rows: RecordedRows;
  private readonly file: RecordingFile;
  private readonly begunAt = new Date().toISOString();
  private state: Recording['state'] = 'running';
  private says: string | null = null;
  private endedAt: string | null = null;
  /** What goes on until it ends. */
  private readonly stops: (() => void)[] = [];

  constructor(
    private readonly id: string,
    private readonly wish: RecordingWish,
    private readonly recorded: Recorded,
    path: string,
  ) {
    this.rows = new RecordedRows(
      wish.shape,
      wish.items.map(({ name }) => name),
    );
    this.file = new RecordingFile(path, (says) => void this.end('failed', `${says} What is there is kept.`));
  }

  get owner(): string {
    return this.recorded.owner;
  }

  get isRunning(): boolean {
    return this.state === 'running';
  }

  /** Ended before a time (ms since 1970). */
  isOver = (before: number): boolean => this.endedAt !== null && Date.parse(this.endedAt) < before;

  get view(): Recording {
    const { id, state, says, begunAt, endedAt } = this;
    const { items, shape, everyMs, seconds } = this.wish;
    const { rows, bytes } = this.file;
    const about = { linkName: this.recorded.linkName, items: items.length, shape, everyMs, seconds };
    return { id, ...about, state, says, rows, bytes, begunAt, endedAt };
  }

  async begin(session: Pick<BenchSession, 'subscribe'>): Promise<void> {
    const { items, shape, everyMs, seconds } = this.wish;
    this.file.begin(this.rows.header);
    // Of each item at most ten values wait at the server: none is lost between two messages.
    const subscription = await session.subscribe(Math.min(1000, everyMs * 5), {
      changed: (index, value) => {
        const line = this.rows.heard(new Date().toISOString(), index, value);
        if (line !== null && this.isRunning) this.file.add(line);
      },
      revised: () => undefined,
    });
    this.stops.push(() => void subscription.end());
    await subscription.add(
      items.map(({ nodeId }, key) => ({ key, nodeId })),
      everyMs,
    );
    if (shape === 'samples') {
      const timer = setInterval(() => this.file.add(this.rows.sample(new Date().toISOString())), everyMs);
      this.stops.push(() => clearInterval(timer));
    }
    const over = setTimeout(() => void this.end('done', null), seconds * 1000);
    this.stops.push(() => clearTimeout(over));
    const end = (): void => void this.end('stopped', 'The session ended.');
    if (this.recorded.ended.aborted) end();
    else this.recorded.ended.addEventListener('abort', end, { once: true });
    // It may have failed while the items were being watched.
    if (!this.isRunning) this.halt();
  }

  /** Ends it, once: what was recorded stays. Resolves when the file is closed. */
  async end(state: 'done' | 'stopped' | 'failed', says: string | null): Promise<void> {
    if (!this.isRunning) return;
    Object.assign(this, { state, says, endedAt: new Date().toISOString() });
    this.halt();
    await this.file.end();
  }

  private halt(): void {
    for (const stop of this.stops.splice(0)) stop();
  }
}
