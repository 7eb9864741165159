import * as z from 'zod';
import { tunnelSides } from '@loyal-hinge/core';
import type { TunnelChange } from '@loyal-hinge/core';
import { tunnelLimits, tunnelStatistics } from './line/tunnel.js';
import { outpost, outpostDoor } from './outposts.js';
import { id, name } from './plant.js';
import { instant } from './trust/typed.js';

const host = z
  .string()
  .trim()
  .min(1, 'Give a host name or an address.')
  .max(253)
  .regex(/^[A-Za-z0-9.:_-]+$/, 'Give a host name or an address alone.');
const port = z.int().min(1, 'A port is at least 1.').max(65_535, 'A port is at most 65535.');

const sides = z.enum(tunnelSides);

const ofTunnel = { tunnelId: id, tunnel: z.string().max(200), machineId: id };
/** What somebody does at a machine for a tunnel. */
export const tunnelChange = z.discriminatedUnion('kind', [
  z.object({
    kind: z.enum(['set-up-tunnel-end', 'take-down-tunnel-end']),
    ...ofTunnel,
    outpostId: id,
    side: sides,
    address: host,
    port,
  }),
  z.object({
    kind: z.enum(['lead-through-tunnel', 'lead-straight']),
    ...ofTunnel,
    linkId: id,
    client: z.string().max(200),
    host: z.string().max(253),
    port: z.int().min(0).max(65_535),
    entranceAddress: host,
    entrancePort: port,
  }),
]) satisfies z.ZodType<TunnelChange>;

/** A tunnel between two machines, as somebody wants it. */
export const tunnelWish = z
  .object({
    name,
    /** The machine whose end listens. */
    listeningMachineId: id,
    diallingMachineId: id,
    /** Where the listening end listens, and the other one dials. */
    address: host,
    port,
    limits: tunnelLimits.pick({ streams: true, streamBytesPerSecond: true, bytesPerSecond: true, idleMs: true }),
  })
  .refine((wish) => wish.listeningMachineId !== wish.diallingMachineId, {
    path: ['diallingMachineId'],
    message: 'The two ends stand on two machines.',
  });
export type TunnelWish = z.infer<typeof tunnelWish>;

/** A link that shall go through a tunnel. */
export const tunnelledLinkWish = z.object({
  linkId: id,
  /** Where its client dials: an address of the machine of the end at its side. */
  entranceAddress: host,
  entrancePort: port,
});
export type TunnelledLinkWish = z.infer<typeof tunnelledLinkWish>;

export const tunnelEnd = z.object({
  side: sides,
  outpost,
  /** Whether it holds what it shall; null: it was never told. */
  holds: z.enum(['it', 'another', 'nothing', 'not-told']),
  /** Why it can’t hold it. */
  fault: z.string().nullable(),
  statistics: tunnelStatistics.nullable(),
});
export type TunnelEnd = z.infer<typeof tunnelEnd>;

export const tunnelledLink = z.object({
  linkId: z.string(),
  link: z.string(),
  /** The end at the client’s side. */
  side: sides,
  entranceAddress: z.string(),
  entrancePort: z.int(),
  /** What the other end connects to. */
  targetAddress: z.string(),
  targetPort: z.int(),
  state: z.string().nullable(),
});
export type TunnelledLink = z.infer<typeof tunnelledLink>;

export const tunnel = z.object({
  id: z.string(),
  name: z.string(),
  address: z.string(),
  port: z.int(),
  limits: tunnelLimits,
  ends: z.array(tunnelEnd),
  links: z.array(tunnelledLink),
  /** `up`: both ends say that they are joined; `down`: one says that it is not, or is away; `unset`: an end was never heard. */
  state: z.enum(['up', 'down', 'unset']),
  /** Why it is not up. */
  says: z.string().nullable(),
});
export type Tunnel = z.infer<typeof tunnel>;

/** Machines on which an end may stand. */
export const tunnelMachine = z.object({ id: z.string(), name: z.string(), addresses: z.array(z.string()) });
export type TunnelMachine = z.infer<typeof tunnelMachine>;

export const tunnelsView = z.object({
  door: outpostDoor,
  tunnels: z.array(tunnel),
  machines: z.array(tunnelMachine),
});
export type TunnelsView = z.infer<typeof tunnelsView>;

/** What an end told of itself at a moment. */
export const tunnelSample = z.object({
  at: instant,
  state: tunnelStatistics.shape.state,
  roundTripMs: z.number().nullable(),
  streams: z.int(),
  /** Since the sample before. */
  sentPerSecond: z.number(),
  receivedPerSecond: z.number(),
});
export type TunnelSample = z.infer<typeof tunnelSample>;

export const tunnelView = z.object({
  door: outpostDoor,
  tunnel,
  history: z.array(z.object({ side: sides, samples: z.array(tunnelSample) })),
});
export type TunnelView = z.infer<typeof tunnelView>;

export const tunnelChoices = z.object({
  machines: z.array(tunnelMachine),
  /** Links that could go through it, and do not. */
  otherLinks: z.array(
    z.object({
      linkId: z.string(),
      link: z.string(),
      entranceAddress: z.string(),
      entrancePort: z.int(),
      /** How many ports must be open for it now, at the firewalls between. */
      openPorts: z.int(),
    }),
  ),
});
export type TunnelChoices = z.infer<typeof tunnelChoices>;
