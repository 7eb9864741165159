import * as z from 'zod';
import { certificateSummary } from '../links.js';
import { instant } from './typed.js';
import { waiver } from './waivers.js';

/** A certificate’s own page: what it says, where it lies, and what stands on it. */
export const certificatePage = z.object({
  certificate: certificateSummary,
  pem: z.string(),
  firstSeen: instant,
  unusual: z.array(z.string()),
  /** Rules of Part 6 §6.2.2 that it does not keep; null for authorities, which are no applications. */
  lint: z
    .array(
      z.object({
        ruleId: z.string(),
        clause: z.string(),
        severity: z.enum(['error', 'warning', 'advice']),
        says: z.string(),
        remedy: z.string(),
      }),
    )
    .nullable(),
  /** As it can be built from all that is known, itself first. */
  chain: z.array(
    z.object({
      thumbprint: z.string(),
      name: z.string(),
      notAfter: instant,
      isAuthority: z.boolean(),
      selfIssued: z.boolean(),
    }),
  ),
  /** The name of an issuer that is known nowhere; null where the chain is whole. */
  missingIssuer: z.string().nullable(),
  revoked: z.object({ since: instant, reason: z.string() }).nullable(),
  shownBy: z.array(z.object({ applicationId: z.string(), name: z.string(), now: z.boolean() })),
  lies: z.array(
    z.object({
      applicationId: z.string(),
      name: z.string(),
      list: z.enum(['trusted', 'issuers', 'rejected']),
      since: instant,
    }),
  ),
  links: z.array(z.object({ linkId: z.string(), name: z.string() })),
  /** Applications that validate it for a link. */
  meets: z.array(z.object({ applicationId: z.string(), name: z.string() })),
  /** The newest first. */
  waivers: z.array(waiver),
  /** Other certificates of the same application URI or, for an authority, of the same name; by their beginning. */
  relatives: z.array(
    z.object({
      thumbprint: z.string(),
      name: z.string(),
      notBefore: instant,
      notAfter: instant,
      is: z.enum(['before', 'after']),
    }),
  ),
});
export type CertificatePage = z.infer<typeof certificatePage>;
