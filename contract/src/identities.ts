import * as z from 'zod';
import { thumbprint } from './thumbprint.js';

const passphrase = z.string().max(500);
const label = '[A-Za-z0-9]([A-Za-z0-9-]{0,61}[A-Za-z0-9])?';
export const hostName = z.union(
  [
    z
      .string()
      .trim()
      .regex(new RegExp(`^${label}(\\.${label})*$`)),
    z.ipv4(),
    z.ipv6(),
  ],
  { error: 'This is no host name and no address.' },
);

/**
 * How a client gets its certificate and private key. The key is sealed as soon as it is there and never given out again.
 * `making`: both are made here, with everything that Part 6 §6.2.2 asks for; signed by an authority of the plant, or by itself.
 */
export const clientIdentity = z.discriminatedUnion('by', [
  z.object({
    by: z.literal('pem'),
    certificatePem: z.string().min(1, 'A certificate is needed.').max(50_000),
    privateKeyPem: z.string().min(1, 'A private key is needed.').max(50_000),
  }),
  z.object({
    by: z.literal('pkcs12'),
    base64: z.base64({ error: 'This is no Base64.' }).min(1, 'A file is needed.').max(400_000),
    passphrase,
  }),
  z.object({
    by: z.literal('making'),
    commonName: z.string().trim().min(1, 'A name is needed.').max(64, 'A common name has at most 64 letters.'),
    organization: z.string().trim().max(64, 'An organisation has at most 64 letters.'),
    hosts: z.array(hostName).min(1, 'At least one host name or address is needed.').max(20),
    keyKind: z.enum(['RSA 2048', 'RSA 3072', 'RSA 4096']),
    validDays: z.int().min(1, 'At least one day.').max(3650, 'At most ten years.'),
    /** Thumbprint of the authority that signs, and its passphrase; null: it signs itself. */
    authority: z.object({ thumbprint, passphrase }).nullable(),
  }),
]);
export type ClientIdentity = z.infer<typeof clientIdentity>;

export const clientIdentityView = z.object({
  applicationId: z.string(),
  application: z.string(),
  /** null: none is kept, so no secured channel can be opened as this client. */
  thumbprint: z.string().nullable(),
  subject: z.string().nullable(),
  notAfter: z.string().nullable(),
});
export type ClientIdentityView = z.infer<typeof clientIdentityView>;
