import { readTunnelConfiguration } from '@loyal-hinge/contract/line';
import type { TunnelConfiguration, TunnelStatistics } from '@loyal-hinge/contract/line';
import { fileNames, Holder, Post } from '@loyal-hinge/outpost';
import type { OutpostFolder, Place } from '@loyal-hinge/outpost';
import { TunnelEnd } from './end.js';
import type { Tell } from './end.js';

export const configurationFile = 'tunnel.json';
/** How often it tells the server of itself. */
const tellMs = 5_000;

/** An end of a tunnel that is told by the server what to hold, and tells how it goes. */
export class TunnelOutpost {
  private readonly holder: Holder<TunnelConfiguration, TunnelEnd>;
  private readonly post: Post | null;
  private readonly beat: NodeJS.Timeout;

  /** @param place where the server is; null: it is set up by files alone */
  private constructor(folder: OutpostFolder, place: Place | null, tell: Tell) {
    this.holder = new Holder(folder, {
      file: configurationFile,
      read: readTunnelConfiguration,
      start: (configuration) => TunnelEnd.start(configuration, folder.path, tell),
      change: (end, configuration) => end.change(configuration),
      stop: (end) => end.stop(),
      changed: () => this.report(),
      tell,
    });
    this.post =
      place &&
      new Post(folder, place, {
        welcomed: () => this.report(),
        heard: (message) => {
          if (message.kind === 'removed') this.holder.hold({ revision: '', configuration: null });
          if (message.kind !== 'hold-tunnel') return;
          const { revision, configuration, authorityPem, revokedPem } = message;
          this.holder.hold({
            revision,
            configuration,
            files: { [fileNames.authority]: authorityPem, [fileNames.revoked]: revokedPem },
          });
        },
        tell,
      });
    this.beat = setInterval(() => this.report(), tellMs);
  }

  static async start(folder: OutpostFolder, place: Place | null, tell: Tell): Promise<TunnelOutpost> {
    const outpost = new TunnelOutpost(folder, place, tell);
    await outpost.holder.again();
    outpost.post?.start();
    return outpost;
  }

  /** Of the end that it holds; null: it holds none. */
  get statistics(): TunnelStatistics | null {
    return this.holder.running?.statistics ?? null;
  }
  get whyNot(): string | null {
    return this.holder.whyNot;
  }

  async stop(): Promise<void> {
    clearInterval(this.beat);
    this.post?.stop();
    await this.holder.stop();
  }

  private report(): void {
    const { revision, whyNot: fault } = this.holder;
    this.post?.say({ kind: 'tunnel', revision, fault, statistics: this.statistics });
  }
}
