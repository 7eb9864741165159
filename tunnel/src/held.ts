import type { TunnelConfiguration } from '@loyal-hinge/contract/line';
import { Pace } from './pace.js';

/** What an end holds now: another configuration takes its place while lines stand. */
export class Held {
  /** Of all streams together. */
  paces: { readonly sent: Pace | null; readonly received: Pace | null };

  constructor(public configuration: TunnelConfiguration) {
    this.paces = pacesOf(configuration);
  }

  hold(configuration: TunnelConfiguration): void {
    const before = this.configuration.limits.bytesPerSecond;
    this.configuration = configuration;
    if (configuration.limits.bytesPerSecond !== before) this.paces = pacesOf(configuration);
  }
}

function pacesOf({ limits: { bytesPerSecond } }: TunnelConfiguration): Held['paces'] {
  const pace = (): Pace | null => (bytesPerSecond === null ? null : new Pace(bytesPerSecond));
  return { sent: pace(), received: pace() };
}
