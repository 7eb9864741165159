import { z } from 'zod';
import { roles } from './roles.js';

export const role = z.enum(roles);

export const signIn = z.object({
  name: z.string().trim().min(1, 'A name is needed.').max(100),
  password: z.string().min(1, 'A password is needed.').max(500),
});

/** Who is signed in; `token` goes with every call that changes something. */
export const signedIn = z.object({ name: z.string(), role, token: z.string(), plantName: z.string() });
export type SignedIn = z.infer<typeof signedIn>;

export const auditEntry = z.object({
  sequence: z.int(),
  at: z.string(),
  actor: z.string(),
  action: z.string(),
  subject: z.string(),
  details: z.record(z.string(), z.unknown()),
});

export const health = z.object({
  status: z.enum(['well', 'unwell']),
  database: z.enum(['up', 'down']),
  queue: z.enum(['up', 'down']),
  standIns: z.enum(['up', 'down', 'none']),
});
export type Health = z.infer<typeof health>;
