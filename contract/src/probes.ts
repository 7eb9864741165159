import * as z from 'zod';
import { outpost, outpostDoor } from './outposts.js';
import { id, name } from './plant.js';

/** A probe, as somebody wants it: where it runs, and from which machines’ place it checks links. */
export const probeWish = z.object({
  name,
  /** The machine on which it runs. */
  machineId: id,
  /** Links whose clients are on these machines are checked by it. */
  machineIds: z.array(id).max(500),
});
export type ProbeWish = z.infer<typeof probeWish>;

export const probe = z.object({
  outpost,
  machines: z.array(z.object({ id: z.string(), name: z.string() })),
  /** What it may dial, as its own folder says (CIDR); null: it never told. */
  ranges: z.array(z.string()).nullable(),
  /** Links that are checked by it. */
  links: z.int(),
});
export type Probe = z.infer<typeof probe>;

export const probesView = z.object({
  door: outpostDoor,
  probes: z.array(probe),
  machines: z.array(z.object({ id: z.string(), name: z.string() })),
});
export type ProbesView = z.infer<typeof probesView>;
