import * as z from 'zod';

export const recognisedFile = z.object({
  name: z.string(),
  kind: z.enum(['certificates', 'crl', 'request', 'pki-folder', 'pkcs12', 'private-key', 'unknown']),
  says: z.string(),
  /** Thumbprints of the certificates in it, which are kept from then on. */
  certificates: z.array(
    z.object({ thumbprint: z.string(), name: z.string(), isAuthority: z.boolean(), shownBy: z.string().nullable() }),
  ),
  crlId: z.string().nullable(),
  /** The application that a request or a PKI folder seems to be of. */
  applicationId: z.string().nullable(),
  requestPem: z.string().nullable(),
});
export type RecognisedFile = z.infer<typeof recognisedFile>;
