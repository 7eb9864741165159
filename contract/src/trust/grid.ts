import * as z from 'zod';
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

/** What of the grid is shown: everything, what links need, what of that is refused, or what is trusted and no link needs. */
export const gridChoices = ['all', 'needed', 'refused', 'idle'] as const;
export type GridChoice = (typeof gridChoices)[number];

export const gridPage = z.object({
  /** Words that must all stand somewhere in a cell’s application, zone, certificate or standing. */
  find: z.string().max(300).optional(),
  only: z.enum(gridChoices).optional(),
  /** The place of the first application, from 0. */
  from: z.coerce.number().int().min(0).max(10_000_000).optional(),
  most: z.coerce.number().int().min(1).max(200).optional(),
});
export type GridPage = z.infer<typeof gridPage>;

/** Some applications in the order of their zones, with the certificates that they need or list. */
export const trustOverview = z.object({
  from: z.int(),
  /** How many applications have a cell that fits. */
  fitting: z.int(),
  /** Applications whose lists are being read just now. */
  reading: z.int(),
  parties: z.array(trustParty),
  columns: z.array(gridColumn),
  cells: z.array(gridCell),
  /** Names of the links that cells speak of. */
  links: z.record(z.string(), z.string()),
});
export type TrustOverview = z.infer<typeof trustOverview>;

/** The finding of the grid, from what was counted. */
export const trustFinding = z.object({
  headline: z.string(),
  refused: z.int(),
  unknown: z.int(),
  /** Certificates that are trusted and that no link needs. */
  idle: z.int(),
  /** Applications whose lists were never read. */
  unread: z.int(),
});
export type TrustFinding = z.infer<typeof trustFinding>;

export const partiesWish = z.object({
  find: z.string().max(300).optional(),
  way: z.enum(trustWays).optional(),
  most: z.coerce.number().int().min(1).max(2000).optional(),
});
export type PartiesWish = z.infer<typeof partiesWish>;
