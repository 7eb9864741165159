import { readTunnelConfiguration } from '@loyal-hinge/contract/line';
import type { FromServer, TunnelConfiguration, TunnelStatistics } from '@loyal-hinge/contract/line';
import { fileNames, Post } from '@loyal-hinge/outpost';
import type { OutpostFolder, Place } from '@loyal-hinge/outpost';
import { TunnelEnd } from './end.js';
import type { Tell } from './end.js';

export const configurationFile = 'tunnel.json';
const revisionFile = 'revision';
/** How often it tells the server of itself. */
const tellMs = 5_000;

type Hold = Extract<FromServer, { kind: 'hold-tunnel' }>;

/**
 * An end of a tunnel that is told by the server what to hold, and tells how it goes. What it held last it holds again when it is
 * started, whether the server is there or not.
 */
export class TunnelOutpost {
  private end: TunnelEnd | null = null;
  private revision: string | null = null;
  private fault: string | null = null;
  private work: Promise<void> = Promise.resolve();
  private readonly post: Post | null;
  private readonly beat: NodeJS.Timeout;

  /** @param place where the server is; null: it is set up by files alone */
  private constructor(
    private readonly folder: OutpostFolder,
    place: Place | null,
    private readonly tell: Tell,
  ) {
    this.post =
      place &&
      new Post(folder, place, {
        welcomed: () => this.report(),
        heard: (message) => {
          if (message.kind === 'hold-tunnel') this.work = this.work.then(() => this.hold(message));
          if (message.kind === 'removed') this.work = this.work.then(() => this.letGo(''));
        },
        tell,
      });
    this.beat = setInterval(() => this.report(), tellMs);
  }

  static async start(folder: OutpostFolder, place: Place | null, tell: Tell): Promise<TunnelOutpost> {
    const outpost = new TunnelOutpost(folder, place, tell);
    const text = await folder.read(configurationFile);
    if (text !== null && text !== '') {
      outpost.revision = await folder.read(revisionFile);
      const read = readTunnelConfiguration(text);
      if (read.ok) await outpost.run(read.value);
      else outpost.failed(`${configurationFile}: ${read.says}`);
    }
    outpost.post?.start();
    return outpost;
  }

  /** Of the end that it holds; null: it holds none. */
  get statistics(): TunnelStatistics | null {
    return this.end?.statistics ?? null;
  }
  get whyNot(): string | null {
    return this.fault;
  }

  async stop(): Promise<void> {
    clearInterval(this.beat);
    this.post?.stop();
    await this.work;
    await this.end?.stop();
  }

  private async hold({ revision, configuration, authorityPem, revokedPem }: Hold): Promise<void> {
    try {
      await this.folder.write(fileNames.authority, authorityPem);
      if (revokedPem !== null) await this.folder.write(fileNames.revoked, revokedPem);
      if (!configuration) return await this.letGo(revision);
      await this.folder.write(configurationFile, `${JSON.stringify(configuration, null, 2)}\n`);
      await this.folder.write(revisionFile, revision);
      this.revision = revision;
      await this.run(configuration);
    } catch (error) {
      this.failed(error instanceof Error ? error.message : String(error));
    }
    this.report();
  }

  /** Stops its end, and holds nothing: not when it is started again, either. */
  private async letGo(revision: string): Promise<void> {
    await this.folder.write(configurationFile, '');
    await this.folder.write(revisionFile, revision);
    this.revision = revision;
    this.fault = null;
    const { end } = this;
    this.end = null;
    await end?.stop();
    this.tell('Nothing is to be held any more.');
    this.report();
  }

  /** Runs an end by a configuration; one that runs goes over to it, or is started anew. */
  private async run(configuration: TunnelConfiguration): Promise<void> {
    try {
      if (!(await this.end?.change(configuration))) {
        await this.end?.stop();
        this.end = null;
        this.end = await TunnelEnd.start(configuration, this.folder.path, this.tell);
      }
      this.fault = null;
      this.tell(`${configuration.name} holds what it was given.`);
    } catch (error) {
      this.failed(error instanceof Error ? error.message : String(error));
    }
  }

  private failed(says: string): void {
    this.fault = says.slice(0, 2_000);
    this.tell(says);
  }

  private report(): void {
    this.post?.say({ kind: 'tunnel', revision: this.revision, fault: this.fault, statistics: this.statistics });
  }
}
