import * as z from 'zod';
import { certificateSummary } from '../links.js';
import { id } from '../plant.js';
import { passphrase, pem, instant } from './typed.js';

/** A request that waits for its certificate from an authority whose key is kept elsewhere. */
export const signingRequest = z.object({
  id: z.string(),
  application: z.string(),
  requestPem: z.string(),
  madeBy: z.string(),
  madeAt: instant,
});
export type SigningRequestView = z.infer<typeof signingRequest>;

export const authorityView = z.object({
  thumbprint: z.string(),
  name: z.string(),
  certificate: certificateSummary,
  /** Plans reckon with it. */
  isCurrent: z.boolean(),
  /** Whether its key lies here, encrypted; else it is kept elsewhere. */
  keyKept: z.boolean(),
  crl: z
    .object({ number: z.int(), thisUpdate: instant, nextUpdate: instant.nullable(), warning: z.string().nullable() })
    .nullable(),
  issued: z.array(
    z.object({
      serialNumber: z.string(),
      thumbprint: z.string().nullable(),
      application: z.string().nullable(),
      issuedAt: instant.nullable(),
      revokedAt: instant.nullable(),
      reason: z.string().nullable(),
    }),
  ),
  /** What is to be signed where its key is kept. */
  requests: z.array(signingRequest),
  /** Its key lies here, it signed itself, and plans reckon with it. */
  mayRenew: z.boolean(),
  /** How far the plant has moved to the authority with which plans reckon now; null: it is that one itself. */
  succession: z
    .object({
      after: z.string(),
      afterName: z.string(),
      /** Since when that one is valid: it may have the same name. */
      afterSince: instant,
      /** Names of applications that trust this one and not yet the one after. */
      trustOnlyBefore: z.array(z.string()),
      /** They trust both. */
      trustBoth: z.array(z.string()),
      /** What they show hangs below this one alone. */
      showBefore: z.array(z.string()),
      isOver: z.boolean(),
    })
    .nullable(),
});
export type AuthorityView = z.infer<typeof authorityView>;

const newPassphrase = z.string().min(12, 'The passphrase needs at least 12 letters.').max(500);

const keyKind = z.enum(['RSA 2048', 'RSA 3072', 'RSA 4096', 'P-256']);

const authorityDays = z.int().min(30, 'At least 30 days.').max(7300, 'At most 20 years.');

export const createAuthority = z.object({
  commonName: z.string().trim().min(1, 'A name is needed.').max(64, 'A common name has at most 64 letters.'),
  organization: z.string().trim().max(64, 'An organisation has at most 64 letters.'),
  keyKind,
  validDays: authorityDays,
  pathLength: z.int().min(0).max(5).nullable(),
  passphrase: newPassphrase,
});
export type CreateAuthority = z.infer<typeof createAuthority>;

/** The same name, with the key that it has or with a new one. */
export const renewAuthority = z.object({
  /** null: it keeps its key, and all that it has signed. */
  newKey: keyKind.nullable(),
  validDays: authorityDays,
  passphrase,
  /** null: the passphrase stays. */
  newPassphrase: newPassphrase.nullable(),
});
export type RenewAuthority = z.infer<typeof renewAuthority>;

export const importAuthority = z.object({
  certificatePem: pem,
  /** null: the key is kept elsewhere. */
  encryptedKeyPem: pem.nullable(),
  passphrase: passphrase.nullable(),
});
export type ImportAuthority = z.infer<typeof importAuthority>;

export const issueRequest = z.object({
  applicationId: id,
  requestPem: pem,
  validDays: z.int().min(1).max(3650),
  passphrase,
});
export type IssueRequest = z.infer<typeof issueRequest>;

export const issuedCertificate = z.object({ thumbprint: z.string(), certificatePem: z.string(), chainPem: z.string() });
export type Issued = z.infer<typeof issuedCertificate>;

/** Why a certificate is revoked, as far as it can be said of an application’s (RFC 5280 §5.3.1). */
export const revocationReasons = [
  'unspecified',
  'keyCompromise',
  'affiliationChanged',
  'superseded',
  'cessationOfOperation',
  'privilegeWithdrawn',
] as const;

export const revokeRequest = z.object({
  serialNumber: z.string().regex(/^[0-9A-F]{1,40}$/, 'This is no serial number.'),
  reason: z.enum(revocationReasons),
  passphrase,
});

/** The certificate that an authority kept elsewhere has signed, perhaps with its issuers. */
export const broughtCertificate = z.object({ certificatePem: pem });

export const issueCrlRequest = z.object({ passphrase });
