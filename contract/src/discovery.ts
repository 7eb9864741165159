import * as z from 'zod';
import { endpointUrl, machine, serverApplication, zone } from './plant.js';

/** Where to look: discovery servers to ask, and addresses to dial, politely and inside the declared ranges only. */
export const discoveryWish = z
  .object({
    discoveryUrls: z.array(endpointUrl).max(20),
    /** Dial the addresses of all machines of the plant. */
    machines: z.boolean(),
    /** Dial all addresses of these ranges (CIDR), at most 1024 of them. */
    ranges: z.array(z.union([z.cidrv4(), z.cidrv6()], { error: 'This is no range such as 10.20.0.0/24.' })).max(20),
    ports: z.array(z.int().min(1).max(65_535)).max(10),
    /** Ports at which mappers of COM are looked for, and asked for their machines’ classic servers. */
    mapperPorts: z.array(z.int().min(1).max(65_535)).max(4),
    /** Ports at which field devices are looked for: each is asked for one register, and nothing is written. */
    devicePorts: z.array(z.int().min(1).max(65_535)).max(4).default([]),
  })
  .refine(({ ports, mapperPorts, devicePorts }) => ports.length + mapperPorts.length + devicePorts.length > 0, {
    error: 'At least one port is needed.',
    path: ['ports'],
  })
  .refine(({ discoveryUrls, machines, ranges }) => discoveryUrls.length > 0 || machines || ranges.length > 0, {
    error: 'Say where to look: a discovery server, the machines of the plant, or a range.',
  });
export type DiscoveryWish = z.infer<typeof discoveryWish>;

export const foundServer = z.object({
  endpointUrl: z.string(),
  address: z.string(),
  port: z.int(),
  applicationUri: z.string(),
  applicationName: z.string(),
  thumbprint: z.string().nullable(),
  by: z.string(),
  /** Of a classic server, as its machine’s list has it. */
  classic: z.object({ progId: z.string(), clsid: z.string(), categories: z.array(z.string()).readonly() }).optional(),
  standing: z.enum(['known', 'differs', 'new']),
  says: z.string(),
  proposal: z.object({ zone: zone.nullable(), machine: machine.nullable(), application: serverApplication }).nullable(),
});
export type FoundServerView = z.infer<typeof foundServer>;

export const foundDevice = z.object({
  address: z.string(),
  port: z.int(),
  /** The unit that answered; null: none of those that were asked. */
  unit: z.int().nullable(),
  /** Whether what came is of the protocol; if not, its port is open, and nothing came. */
  speaks: z.boolean(),
  by: z.string(),
  standing: z.enum(['known', 'new']),
  says: z.string(),
  machineId: z.string().nullable(),
  proposal: z.object({ zone: zone.nullable(), machine }).nullable(),
});
export type FoundDeviceView = z.infer<typeof foundDevice>;

export const discoveryState = z.object({
  running: z.boolean(),
  /** Places looked at, of all that there are to look at. */
  done: z.int(),
  total: z.int(),
  found: z.array(foundServer),
  devices: z.array(foundDevice),
  /** What did not work, in words. */
  faults: z.array(z.string()),
  beganAt: z.string().nullable(),
  by: z.string().nullable(),
});
export type DiscoveryState = z.infer<typeof discoveryState>;
