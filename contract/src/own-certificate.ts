import * as z from 'zod';
import { hostName } from './identities.js';
import { thumbprint } from './thumbprint.js';

const hosts = z.array(hostName).min(1, 'At least one host name or address is needed.').max(20);

/** How this server gets the certificate by which it is reached over TLS: from an authority of the plant, or from a file. */
export const ownCertificate = z.discriminatedUnion('by', [
  z.object({
    by: z.literal('authority'),
    authority: thumbprint,
    passphrase: z.string().max(500),
    hosts,
    validDays: z.int().min(1, 'At least one day.').max(825, 'Browsers take no more than 825 days.'),
  }),
  z.object({
    by: z.literal('file'),
    /** The certificate, and the issuers that are sent along. */
    certificatePem: z.string().min(1, 'A certificate is needed.').max(100_000),
    /** Left out where it was signed from a request of this server. */
    privateKeyPem: z.string().max(50_000).optional(),
  }),
]);
export type OwnCertificate = z.infer<typeof ownCertificate>;

export const ownCertificateRequest = z.object({ hosts });

export const ownCertificateView = z.object({
  subject: z.string(),
  issuer: z.string(),
  isSelfSigned: z.boolean(),
  hosts: z.array(z.string()),
  notAfter: z.string(),
  /** SHA-256 of the certificate, as browsers show it. */
  sha256: z.string(),
});
export type OwnCertificateView = z.infer<typeof ownCertificateView>;

export const ownCertificateState = z.object({
  /** null: the server is reached from its own computer alone, without TLS. */
  certificate: ownCertificateView.nullable(),
  /** Names and addresses that this computer goes by. */
  hosts: z.array(z.string()),
});
export type OwnCertificateState = z.infer<typeof ownCertificateState>;
