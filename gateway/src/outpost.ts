import type { GatewayConfiguration, GatewayStatistics } from '@loyal-hinge/contract/line';
import { Holder, Post } from '@loyal-hinge/outpost';
import type { OutpostFolder, Place } from '@loyal-hinge/outpost';
import { readConfiguration } from './configuration.js';
import type { Tell } from './gateway.js';
import { startGateway } from './run.js';
import type { RunningGateway } from './run.js';

const tellMs = 5_000;

/** A gateway that is told by the server what to hold, tells how it goes, and shows its items when it is asked. */
export class GatewayOutpost {
  private readonly holder: Holder<GatewayConfiguration, RunningGateway>;
  private readonly post: Post;
  private readonly beat: NodeJS.Timeout;

  private constructor(folder: OutpostFolder, place: Place, tell: Tell) {
    this.holder = new Holder(folder, {
      file: 'gateway.json',
      read: readConfiguration,
      start: (configuration) => startGateway(configuration, folder.path, tell),
      change: (running, configuration) => running.change(configuration),
      stop: (running) => running.stop(),
      changed: () => this.report(),
      tell,
    });
    this.post = new Post(folder, place, {
      welcomed: () => this.report(),
      heard: (message) => {
        if (message.kind === 'removed') this.holder.hold({ revision: '', configuration: null });
        if (message.kind === 'hold-gateway') this.holder.hold(message);
        if (message.kind !== 'tell-items') return;
        const { askId, find, from, count } = message;
        const told = this.holder.running?.gateway.itemsShown(find, from, count) ?? { total: 0, items: [] };
        this.post.say({ kind: 'items', askId, told });
      },
      tell,
    });
    this.beat = setInterval(() => this.report(), tellMs);
  }

  static async start(folder: OutpostFolder, place: Place, tell: Tell): Promise<GatewayOutpost> {
    const outpost = new GatewayOutpost(folder, place, tell);
    await outpost.holder.again();
    outpost.post.start();
    return outpost;
  }

  /** Of the gateway that it holds; null: it holds none. */
  get statistics(): GatewayStatistics | null {
    return this.holder.running?.gateway.statistics ?? null;
  }

  async stop(): Promise<void> {
    clearInterval(this.beat);
    this.post.stop();
    await this.holder.stop();
  }

  private report(): void {
    const { revision, whyNot: fault } = this.holder;
    this.post.say({ kind: 'gateway', revision, fault, statistics: this.statistics });
  }
}
