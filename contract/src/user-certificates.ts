import * as z from 'zod';
import { gridCell } from './trust/grid.js';
import { certificateMark } from '@loyal-hinge/core';
import { clientIdentity } from './identities.js';

/** Under which a user certificate is known in the plant. */
export const userCertificateName = z
  .string()
  .trim()
  .min(1, 'A name is needed.')
  .max(100, 'At most 100 letters.')
  .regex(/^[^/\\?#]*$/, 'Without slashes, question marks and number signs.')
  .refine((name) => !name.endsWith(certificateMark.trim()), `It can’t end with “${certificateMark.trim()}”.`);

const [pem, pkcs12, making] = clientIdentity.options;

/** How a user certificate and its key come here. The key is sealed as soon as it is there and never given out again. */
export const userCertificateGift = z.discriminatedUnion('by', [
  pem,
  pkcs12,
  making.omit({ hosts: true, authority: true }),
]);
export type UserCertificateGift = z.infer<typeof userCertificateGift>;

export const userCertificateView = z.object({
  name: z.string(),
  /** null: links sign in with it, and it is not stored. */
  certificate: z
    .object({
      thumbprint: z.string(),
      subject: z.string(),
      /** As a rule of a role names the subject (Part 18 §4.4.3). */
      criteria: z.string(),
      issuer: z.string(),
      notBefore: z.string(),
      notAfter: z.string(),
    })
    .nullable(),
  /** Servers that trust it as a user, as they were read last. */
  trustedBy: z.array(z.object({ id: z.string(), name: z.string() })),
  setAt: z.string().nullable(),
  setBy: z.string().nullable(),
  links: z.array(z.object({ id: z.string(), name: z.string() })),
});
export type UserCertificateView = z.infer<typeof userCertificateView>;

export const userCertificatesView = z.object({ certificates: z.array(userCertificateView) });

/** Which servers let which users in by their certificates: the part of the trust grid that is about people. */
export const userTrust = z.object({
  columns: z.array(
    z.object({
      thumbprint: z.string(),
      /** The name that it has in the plant; where it has none, its subject. */
      name: z.string(),
      subject: z.string(),
      notAfter: z.string().nullable(),
    }),
  ),
  /** What is listed, and what links sign in with. */
  cells: z.array(gridCell),
});
export type UserTrust = z.infer<typeof userTrust>;
