import * as z from 'zod';
import { roles } from './roles.js';

export const role = z.enum(roles);

const password = z.string().min(1, 'A password is needed.').max(500);
const newPassword = z.string().min(10, 'It needs at least 10 letters.').max(500);
/** Six digits of a one-time password (RFC 6238), or a recovery code; spaces and hyphens in them count for nothing. */
const code = z.string().trim().min(6, 'A code is needed.').max(40);

export const signIn = z.object({
  name: z.string().trim().min(1, 'A name is needed.').max(100),
  password,
  /** Where the person has a second factor. */
  code: code.optional(),
});

/** Who is signed in; `token` goes with every call that changes something. */
export const signedIn = z.object({
  name: z.string(),
  role,
  token: z.string(),
  plantName: z.string(),
  /** The number of the newest event: who takes the stream up behind it misses nothing that is told after this answer. */
  newestEvent: z.int(),
  /** Somebody else gave the password: nothing can be done before it is changed. */
  mustChangePassword: z.boolean(),
});
export type SignedIn = z.infer<typeof signedIn>;

/** A person, as an administrator sees them. */
export const person = z.object({
  name: z.string(),
  role,
  isDisabled: z.boolean(),
  mustChangePassword: z.boolean(),
  hasSecondFactor: z.boolean(),
  lastSignedInAt: z.string().nullable(),
  /** How many sessions are open. */
  sessions: z.int(),
});
export type Person = z.infer<typeof person>;

export const addPerson = z.object({
  name: z
    .string()
    .trim()
    .min(1, 'A name is needed.')
    .max(100)
    .regex(/^[^\p{C}]*$/u, 'It has a character that can’t be seen.'),
  role,
  password: newPassword,
});
export type AddPerson = z.infer<typeof addPerson>;

export const changePerson = z.object({ role, isDisabled: z.boolean() });
export type ChangePerson = z.infer<typeof changePerson>;

export const resetPerson = z.object({ password: newPassword, endSecondFactor: z.boolean() });
export type ResetPerson = z.infer<typeof resetPerson>;

/** A session of a person; the cookie that opens it is known to their browser alone. */
export const session = z.object({
  id: z.string(),
  since: z.string(),
  seenAt: z.string(),
  expiresAt: z.string(),
  /** From which address it was last used, and by which browser, as that calls itself. */
  address: z.string(),
  browser: z.string(),
  /** It is the one that asks. */
  isOwn: z.boolean(),
});
export type Session = z.infer<typeof session>;

/** What somebody sees of themselves. */
export const account = z.object({
  name: z.string(),
  role,
  mustChangePassword: z.boolean(),
  hasSecondFactor: z.boolean(),
  /** Recovery codes that were not used yet. */
  recoveryCodesLeft: z.int(),
  sessions: z.array(session),
});
export type Account = z.infer<typeof account>;

export const changePassword = z.object({ current: password, next: newPassword });
/** Whoever changes how they sign in says their password again. */
export const confirmed = z.object({ current: password });
export const confirmSecondFactor = z.object({ code });

/** What an authenticator application takes in, as a URI (otpauth) and as letters to type. It is shown once. */
export const wantedSecondFactor = z.object({ uri: z.string(), letters: z.string() });
export type WantedSecondFactor = z.infer<typeof wantedSecondFactor>;
/** Each signs in once, in place of a code. They are shown once. */
export const recoveryCodes = z.object({ recoveryCodes: z.array(z.string()) });

export const health = z.object({
  status: z.enum(['well', 'unwell']),
  database: z.enum(['up', 'down']),
  queue: z.enum(['up', 'down']),
});
export type Health = z.infer<typeof health>;
