import type { ReadFile } from '@loyal-hinge/contract/line';
import type { OutpostFolder } from './folder.js';

const revisionFile = 'revision';
const usualRetryMs = 30_000;

/** How an outpost runs what it holds. */
export interface Holding<Configuration, Running> {
  /** The file in which it lies in the outpost’s folder. */
  readonly file: string;
  read(text: string): ReadFile<Configuration>;
  start(configuration: Configuration): Promise<Running>;
  /** @returns false where it has to be started anew for that */
  change(running: Running, configuration: Configuration): Promise<boolean>;
  stop(running: Running): Promise<void>;
  /** It holds something else now, or can’t. */
  changed(): void;
  /** When what could not be kept is tried again; left out: after half a minute. */
  readonly retryMs?: number;
  tell(says: string): void;
}

/** What it is told to hold. */
interface Told<Configuration> {
  readonly revision: string;
  /** null: nothing. */
  readonly configuration: Configuration | null;
  /** That belong to it, by their names; null: one stays as it is. Left out: none do. */
  readonly files?: Readonly<Record<string, string | null>>;
}

/**
 * What an outpost holds for the server. It lies in its folder: what it held last it holds again when it is started, whether the server
 * is there or not.
 */
export class Holder<Configuration extends { readonly name: string }, Running> {
  private held: Running | null = null;
  private heldRevision: string | null = null;
  private fault: string | null = null;
  private work: Promise<void> = Promise.resolve();
  private retry: NodeJS.Timeout | undefined;

  constructor(
    private readonly folder: OutpostFolder,
    private readonly holding: Holding<Configuration, Running>,
  ) {}

  get running(): Running | null {
    return this.held;
  }
  get revision(): string | null {
    return this.heldRevision;
  }
  get whyNot(): string | null {
    return this.fault;
  }

  /** Holds what lies in the folder, if anything does. */
  async again(): Promise<void> {
    const text = await this.folder.read(this.holding.file);
    if (text === null || text === '') return;
    this.heldRevision = await this.folder.read(revisionFile);
    const read = this.holding.read(text);
    if (read.ok) await this.run(read.value);
    else this.failed(`${this.holding.file}: ${read.says}`);
  }

  /** Holds something else from now on; one at a time, in the order in which it was told. */
  hold(told: Told<Configuration>): void {
    clearTimeout(this.retry);
    this.work = this.work.then(() => this.take(told));
  }

  /** Where it can’t be kept, such as on a full disk, what runs goes on as it is, and it is tried again. */
  private async take(told: Told<Configuration>): Promise<void> {
    const { revision, configuration, files = {} } = told;
    try {
      for (const [name, text] of Object.entries(files)) if (text !== null) await this.folder.write(name, text);
      if (configuration) {
        await this.folder.write(this.holding.file, `${JSON.stringify(configuration, null, 2)}\n`);
        await this.folder.write(revisionFile, revision);
        this.heldRevision = revision;
        await this.run(configuration);
      } else await this.letGo(revision);
    } catch (error) {
      this.failed(error instanceof Error ? error.message : String(error));
      clearTimeout(this.retry);
      this.retry = setTimeout(() => this.hold(told), this.holding.retryMs ?? usualRetryMs).unref();
    }
    this.holding.changed();
  }

  /** Waits for what is under way, and stops what runs. */
  async stop(): Promise<void> {
    clearTimeout(this.retry);
    await this.work;
    // What was under way may have failed meanwhile.
    clearTimeout(this.retry);
    if (this.held) await this.holding.stop(this.held);
  }

  /** Holds nothing: not when it is started again, either. */
  private async letGo(revision: string): Promise<void> {
    await this.folder.write(this.holding.file, '');
    await this.folder.write(revisionFile, revision);
    this.heldRevision = revision;
    this.fault = null;
    const { held } = this;
    this.held = null;
    if (held) await this.holding.stop(held);
    this.holding.tell('Nothing is to be held any more.');
  }

  /** What runs goes over to another configuration, or is started anew. */
  private async run(configuration: Configuration): Promise<void> {
    try {
      if (!this.held || !(await this.holding.change(this.held, configuration))) {
        const { held } = this;
        this.held = null;
        if (held) await this.holding.stop(held);
        this.held = await this.holding.start(configuration);
      }
      this.fault = null;
      this.holding.tell(`${configuration.name} holds what it was given.`);
    } catch (error) {
      this.failed(error instanceof Error ? error.message : String(error));
    }
  }

  private failed(says: string): void {
    this.fault = says.slice(0, 2_000);
    this.holding.tell(says);
  }
}
