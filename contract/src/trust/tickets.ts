import * as z from 'zod';
import { passphrase, pem, instant } from './typed.js';

/** A ticket with which an application fetches its certificate and trust list by itself, once. */
export const pullTicket = z.object({
  id: z.string(),
  applicationId: z.string(),
  application: z.string(),
  madeBy: z.string(),
  madeAt: instant,
  expiresAt: instant,
  state: z.enum(['made', 'requested', 'signed', 'fetched', 'expired']),
  /** What the request asks for, in words; null until it was handed in. */
  asks: z.string().nullable(),
});
export type PullTicket = z.infer<typeof pullTicket>;

export const madeTicket = z.object({
  ticket: pullTicket,
  /** Shown this once. */
  token: z.string(),
});
export type MadeTicket = z.infer<typeof madeTicket>;

export const makeTicket = z.object({ applicationId: z.string().max(80), validHours: z.int().min(1).max(720) });

const token = z.string().min(20, 'This is no token.').max(200);

export const pullRequest = z.object({ token, requestPem: pem });

/** What the application fetches; before the request was signed, only that it waits. */
export const pulled = z.discriminatedUnion('state', [
  z.object({ state: z.literal('waiting'), says: z.string() }),
  z.object({
    state: z.literal('ready'),
    certificatePem: z.string(),
    chainPem: z.string(),
    trustList: z.object({
      trusted: z.array(z.string()),
      issuers: z.array(z.string()),
      trustedCrls: z.array(z.string()),
      issuerCrls: z.array(z.string()),
    }),
  }),
]);
export type Pulled = z.infer<typeof pulled>;

export const pullResult = z.object({ token });

export const signTicket = z.object({ authority: z.string().max(80), validDays: z.int().min(1).max(3650), passphrase });
