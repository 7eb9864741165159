import type { TunnelSide } from './tunnelled.js';

/** What somebody does at a machine so that a tunnel stands, or that a link goes through it: one line of a work order. */
export type TunnelChange =
  | {
      readonly kind: 'set-up-tunnel-end' | 'take-down-tunnel-end';
      readonly tunnelId: string;
      readonly tunnel: string;
      readonly machineId: string;
      readonly outpostId: string;
      readonly side: TunnelSide;
      /** Where the ends meet. */
      readonly address: string;
      readonly port: number;
    }
  | {
      readonly kind: 'lead-through-tunnel' | 'lead-straight';
      readonly tunnelId: string;
      readonly tunnel: string;
      readonly machineId: string;
      readonly linkId: string;
      readonly client: string;
      /** The server’s name in the link’s URL, its port, and where its client dials instead. */
      readonly host: string;
      readonly port: number;
      readonly entranceAddress: string;
      readonly entrancePort: number;
    };

const opposite = {
  'set-up-tunnel-end': 'take-down-tunnel-end',
  'take-down-tunnel-end': 'set-up-tunnel-end',
  'lead-through-tunnel': 'lead-straight',
  'lead-straight': 'lead-through-tunnel',
} as const;

export const undoOfTunnelChange = (change: TunnelChange): TunnelChange =>
  ({ ...change, kind: opposite[change.kind] }) as TunnelChange;

/** A change in words. */
export function sayTunnelChange(change: TunnelChange, machine: string) {
  const { tunnel } = change;
  switch (change.kind) {
    case 'set-up-tunnel-end':
    case 'take-down-tunnel-end': {
      const { side, address, port } = change;
      const runs = `runs; it ${side === 'listens' ? `listens at ${address}` : `dials ${address}`} port ${port}`;
      const isSetUp = change.kind === 'set-up-tunnel-end';
      return {
        title: `${isSetUp ? 'Set up' : 'Take down'} the end of ${tunnel} on ${machine}`,
        target: machine,
        before: isSetUp ? 'not there' : runs,
        after: isSetUp ? runs : 'stopped and removed',
        undo: isSetUp ? 'Stop the process, and remove its folder.' : 'Start it from its folder again.',
      };
    }
    case 'lead-through-tunnel':
    case 'lead-straight': {
      const { client, host, port, entranceAddress, entrancePort } = change;
      const straight = `dials ${host} port ${port}`;
      const through =
        entrancePort === port
          ? `${host} leads to ${entranceAddress} on ${machine}, such as by its hosts file:\n${entranceAddress} ${host}`
          : `dials ${entranceAddress} port ${entrancePort}`;
      const isThrough = change.kind === 'lead-through-tunnel';
      return {
        title: `Let ${client} dial ${isThrough ? `the entrance of ${tunnel}` : 'its server directly'}`,
        target: machine,
        before: isThrough ? straight : through,
        after: isThrough ? through : straight,
        undo: isThrough ? `Let it dial ${host} port ${port} again.` : `Let it dial ${entranceAddress} again.`,
      };
    }
  }
}
