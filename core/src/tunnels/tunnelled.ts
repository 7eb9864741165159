import { linkUrlParts } from '../links/link-url.js';
import type { LinkInPlant, Machine } from '../plant/plant.js';

/** The two ends of a tunnel: one listens, the other dials it, whichever way streams go. */
export const tunnelSides = ['listens', 'dials'] as const;
export type TunnelSide = (typeof tunnelSides)[number];
export const otherSide = (side: TunnelSide): TunnelSide => (side === 'listens' ? 'dials' : 'listens');

/** A tunnel with the machines on which its ends stand. */
export interface TunnelInPlant {
  readonly id: string;
  readonly name: string;
  /** Where one end listens, and the other dials. */
  readonly address: string;
  readonly port: number;
  readonly machines: Readonly<Record<TunnelSide, Machine>>;
}

/** The way of a link through a tunnel: its client dials the entrance, and the end at the server’s side connects to the target. */
export interface TunnelledWay {
  readonly tunnel: TunnelInPlant;
  /** The end at the client’s side. */
  readonly side: TunnelSide;
  readonly entrance: TunnelPlace;
  readonly target: TunnelPlace;
}
export interface TunnelPlace {
  readonly address: string;
  readonly port: number;
}

/**
 * At which end of a tunnel a link’s client stands: on its machine, or in its zone, with the server at the other one.
 * @returns a sentence where the link can’t go through it
 */
export function clientSideOf(
  { link, client, clientMachine, server, serverMachine }: LinkInPlant,
  { name, machines }: Pick<TunnelInPlant, 'name' | 'machines'>,
): { readonly ok: true; readonly side: TunnelSide } | { readonly ok: false; readonly says: string } {
  if (link.kind !== 'ua')
    return {
      ok: false,
      says: `${link.name} is classic OPC, which tells addresses and ports of its own inside its calls: a tunnel of one port can’t carry it.`,
    };
  const nearness = (side: TunnelSide): number =>
    Math.min(near(clientMachine, machines[side]), near(serverMachine, machines[otherSide(side)])) * 10 +
    near(clientMachine, machines[side]) +
    near(serverMachine, machines[otherSide(side)]);
  const [side] = [...tunnelSides].sort((one, other) => nearness(other) - nearness(one));
  if (side === undefined || nearness(side) < 10)
    return {
      ok: false,
      says: `The ends of ${name} must stand in the zones of ${client.name} and of ${server.name}, or on their machines.`,
    };
  return { ok: true, side };
}

const near = (one: Machine, other: Machine): 0 | 1 | 2 =>
  one.id === other.id ? 2 : one.zoneId === other.zoneId ? 1 : 0;

/** Where the end at the server’s side connects to: the server’s machine, at the port of the link’s URL. */
export function tunnelTargetOf({ link, serverMachine }: LinkInPlant): TunnelPlace | null {
  const parts = linkUrlParts(link);
  const address = link.pinnedAddress ?? serverMachine.addresses[0] ?? parts?.host;
  return parts && address !== undefined ? { address, port: parts.port } : null;
}
