import type { TunnelChange } from '@loyal-hinge/core';
import { conflict } from '../../http/problems.js';
import type { Carried, ChangeDesk, Gate } from '../../orders/port.js';
import type { TunnelKeeping } from '../keeping.js';

/** Lines of work orders at the machines of a tunnel: whoever may work there does. */
export class TunnelDesk implements ChangeDesk<TunnelChange> {
  readonly action = 'tunnel set up';
  readonly isAlwaysByHand = true;

  constructor(private readonly keeping: Pick<TunnelKeeping, 'lead' | 'leadStraight' | 'entranceOf'>) {}

  needPassphrase = (): Promise<boolean> => Promise.resolve(false);

  byHand = (_: string, changes: readonly TunnelChange[]): Promise<string> =>
    Promise.resolve(
      changes.some(({ kind }) => kind === 'set-up-tunnel-end')
        ? 'Create a ticket for this end on the tunnel’s page, start the process on the machine with it, and sign its request. Then mark it as done: what the end tells proves it.'
        : 'Do it at the machine as it stands here, then mark it as done: the links are checked, and what the ends tell proves it.',
    );

  /** Where clients dial otherwise by now, their links go that way in the plant, too. */
  async afterHand(changes: readonly TunnelChange[], actor: string): Promise<void> {
    for (const change of changes) {
      if (change.kind !== 'lead-straight' && change.kind !== 'lead-through-tunnel') continue;
      const { tunnelId, linkId, entranceAddress, entrancePort } = change;
      const now = await this.keeping.entranceOf(tunnelId, linkId);
      if (change.kind === 'lead-straight') {
        if (now) await this.keeping.leadStraight(tunnelId, linkId, actor);
      } else if (now?.entranceAddress !== entranceAddress || now.entrancePort !== entrancePort)
        await this.keeping.lead(tunnelId, { linkId, entranceAddress, entrancePort }, actor);
    }
  }

  carry = (): Promise<Carried> =>
    Promise.reject(conflict('This is done at the machine itself.', 'Propose the way back as a work order of its own.'));

  gate = (): Promise<Gate> => Promise.resolve({ heldBackBy: () => Promise.resolve(null) });
}
