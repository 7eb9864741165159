import * as z from 'zod';
import { outpostKinds } from './line/messages.js';
import { instant, passphrase, pem } from './trust/typed.js';

/** A process of this product on another machine, as the server knows it. */
export const outpost = z.object({
  id: z.string(),
  kind: z.enum(outpostKinds),
  name: z.string(),
  machineId: z.string(),
  machine: z.string(),
  /**
   * `new`: it has no certificate, and nobody has asked for one; `asks`: its request waits to be signed; `certified`: it has one, and
   * was never heard; `here`, `away`: it is connected now, or was.
   */
  state: z.enum(['new', 'asks', 'certified', 'here', 'away']),
  /** Until when its ticket can be used; null: it has none. */
  ticketUntil: instant.nullable(),
  /** SHA-256 of the key in its request, by which a person at its machine can compare; null: nobody has asked. */
  asksWithKey: z.string().nullable(),
  /** Thumbprint of its certificate. */
  thumbprint: z.string().nullable(),
  notAfter: instant.nullable(),
  heardAt: instant.nullable(),
  /** From where it was connected last. */
  address: z.string().nullable(),
});
export type Outpost = z.infer<typeof outpost>;

export const ticketWish = z.object({
  /** Where the server is dialled from the outpost’s machine. */
  address: z
    .string()
    .trim()
    .min(1, 'Give the name or address of this server, as it is reached from there.')
    .max(253)
    .regex(/^[A-Za-z0-9.:_-]+$/, 'Give a host name or an address alone.'),
  validHours: z.int().min(1, 'At least an hour.').max(720, 'At most 720 hours.'),
});
export type TicketWish = z.infer<typeof ticketWish>;

export const outpostTicket = z.object({
  outpost,
  /** Shown this once. */
  ticket: z.string(),
});
export type OutpostTicket = z.infer<typeof outpostTicket>;

export const outpostRequest = z.object({ requestPem: pem });

export const signOutpost = z.object({
  authority: z.string().min(1, 'Choose an authority.').max(80),
  validDays: z.int().min(1).max(3650),
  passphrase,
});
export type SignOutpost = z.infer<typeof signOutpost>;

/** Where outposts reach this server. */
export const outpostDoor = z.object({
  /** null: it does not listen. */
  port: z.int().nullable(),
  /** Why it does not. */
  says: z.string().nullable(),
});
export type OutpostDoor = z.infer<typeof outpostDoor>;
