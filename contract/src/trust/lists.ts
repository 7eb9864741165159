import * as z from 'zod';
import { certificateSummary, passwordMove, passwordState } from '../links.js';
import { trustParty } from './grid.js';
import { instant } from './typed.js';

export const setAsideEntry = z.object({
  holderId: z.string(),
  holder: z.string(),
  thumbprint: z.string(),
  certificate: certificateSummary,
  since: instant,
  /** The application that it says it is, where the plant knows it. */
  claims: z.string().nullable(),
  /** The certificate that we know for that application: the same, another one, or none. */
  known: z.enum(['the same', 'another', 'none']),
  knownThumbprint: z.string().nullable(),
  /** What it says otherwise than the one that we know. */
  differs: z.array(z.object({ what: z.string(), known: z.string(), here: z.string() })),
  /** Its issuer, where it is known and an authority. */
  issuer: z.object({ thumbprint: z.string(), name: z.string() }).nullable(),
  unusual: z.array(z.string()),
  blocks: z.array(z.object({ linkId: z.string(), name: z.string() })),
  dismissed: z.object({ by: z.string(), at: instant }).nullable(),
});
export type SetAsideEntry = z.infer<typeof setAsideEntry>;

export const trustHistoryEntry = z.object({
  id: z.int(),
  at: instant,
  actor: z.string(),
  says: z.string(),
  added: z.array(z.string()),
  removed: z.array(z.string()),
});

export const holderDetail = z.object({
  party: trustParty,
  access: z
    .object({
      clientId: z.string(),
      endpointUrl: z.string(),
      userName: z.string(),
      passwordState,
      /** Where a kept password may go, and where it would go now; null: that is the same, or none is kept. */
      passwordMoves: passwordMove.nullable(),
    })
    .nullable(),
  lists: z.array(
    z.object({
      list: z.enum(['trusted', 'issuers', 'rejected']),
      thumbprint: z.string(),
      name: z.string(),
      notAfter: instant,
      since: instant,
      until: instant.nullable(),
    }),
  ),
  /** What lay in the lists when they were read last and can’t be read, each in a sentence. */
  unreadable: z.array(z.string()),
  crls: z.array(
    z.object({
      list: z.enum(['trusted', 'issuers']),
      id: z.string(),
      issuer: z.string(),
      thisUpdate: instant,
      nextUpdate: instant.nullable(),
      revoked: z.int(),
    }),
  ),
  history: z.array(trustHistoryEntry),
});
export type HolderDetail = z.infer<typeof holderDetail>;

export const readingOutcome = z.object({ applicationId: z.string(), ok: z.boolean(), says: z.string() });
