import { z } from 'zod';
import { standings, trustWays } from '@loyal-hinge/core';
import { instant } from './typed.js';

export const trustParty = z.object({
  applicationId: z.string(),
  name: z.string(),
  kind: z.enum(['server', 'client']),
  zone: z.string(),
  /** Thumbprint of the certificate that it shows; null: not known. */
  certificate: z.string().nullable(),
  way: z.enum(trustWays),
  restarts: z.boolean(),
  /** When its lists were last read; null: never. */
  readAt: instant.nullable(),
  /** Why the newest try to read them failed. */
  fault: z.string().nullable(),
  trusted: z.int(),
  issuers: z.int(),
  crls: z.int(),
  rejected: z.int(),
  /** Its lists are being read just now. */
  reading: z.boolean(),
});
export type TrustPartyRow = z.infer<typeof trustParty>;

export const gridColumn = z.object({
  thumbprint: z.string(),
  name: z.string(),
  subject: z.string(),
  isAuthority: z.boolean(),
  notAfter: instant,
  shownBy: z.array(z.string()),
  revoked: z.boolean(),
});
export type GridColumnView = z.infer<typeof gridColumn>;

export const gridCell = z.object({
  holderId: z.string(),
  thumbprint: z.string(),
  standing: z.enum(standings),
  status: z.string(),
  says: z.string(),
  linkIds: z.array(z.string()),
});
export type GridCellView = z.infer<typeof gridCell>;

export const trustOverview = z.object({
  headline: z.string(),
  parties: z.array(trustParty),
  columns: z.array(gridColumn),
  cells: z.array(gridCell),
  /** Names of the links that cells speak of. */
  links: z.record(z.string(), z.string()),
});
export type TrustOverview = z.infer<typeof trustOverview>;
